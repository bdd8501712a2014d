import type { MapLink } from '@zetopsis/contract';

/** The two-ended strip: the left half what the caller sends, the right half what the answerer receives; the usual, or the window compared with, as two brackets. */
export function LinkStrip({ link, width, height = 12 }: { link: MapLink; width: number; height?: number }) {
  const sent = link.sent ?? link.received ?? link.bytes ?? 0;
  const received = link.received ?? link.sent ?? link.bytes ?? 0;
  const usual =
    link.was?.rate ??
    (link.usual !== null && (link.state === 'flooded' || link.state === 'silent' || link.state === null)
      ? link.usual
      : null);
  const full = Math.max(sent, received, usual ?? 0, 1e-9);
  const half = width / 2;
  const high = (value: number) => Math.max(value > 0 ? 1.5 : 0, (value / full) * (height - 2));
  const failed = Math.min(1, link.failureShare ?? 0);
  const bar = (x: number, value: number) => {
    const own = high(value);
    const y = height - 1 - own;
    return (
      <g>
        <rect x={x} y={y} width={half} height={own} fill="var(--fill-2)" />
        {failed > 0.01 && <rect x={x} y={y} width={half} height={Math.max(1, own * failed)} fill="url(#map-hatch)" />}
      </g>
    );
  };
  return (
    <g>
      <rect x={0} y={0} width={width} height={height} fill="var(--sheet)" stroke="var(--structure)" strokeWidth="1" />
      {bar(0, sent)}
      {link.state === 'slow' ? (
        <rect
          x={half}
          y={height - 1 - high(received)}
          width={half}
          height={high(received)}
          fill="var(--sheet)"
          stroke="var(--ink)"
        />
      ) : (
        bar(half, received)
      )}
      <path d={`M${half} 0V${height}`} stroke="var(--structure)" />
      {usual !== null && (
        <path
          d={`M-3 ${height - 1 - high(usual)}h4M${width + 3} ${height - 1 - high(usual)}h-4`}
          stroke="var(--ink)"
          strokeWidth="1.4"
        />
      )}
      {link.state === 'flooded' && <rect x={-2} y={-3} width={width + 4} height={3} fill="var(--critical)" />}
      {link.state === 'refused' && (
        <path d={`M${width - 5} -3V${height + 3}`} stroke="var(--critical)" strokeWidth="2.5" />
      )}
      {link.state === 'failing' && <rect x={0} y={-2} width={width} height={2} fill="var(--critical)" />}
    </g>
  );
}
/** Nobody knows what goes over it. */
export function BlindStrip({ width, height = 12 }: { width: number; height?: number }) {
  return (
    <g stroke="var(--structure)">
      <rect width={width} height={height} fill="var(--sheet)" />
      <rect width={width} height={height} fill="url(#map-blind)" />
    </g>
  );
}
/** Cross-hatched: what failed. Hatched: what is not known. */
export function Hatch() {
  return (
    <defs>
      <pattern id="map-hatch" width="4" height="4" patternUnits="userSpaceOnUse">
        <path d="M0 4L4 0M0 0L4 4" stroke="var(--critical)" strokeWidth="0.9" />
      </pattern>
      <pattern id="map-blind" width="5" height="5" patternUnits="userSpaceOnUse">
        <path d="M0 5L5 0" stroke="var(--structure)" strokeWidth="0.9" />
      </pattern>
    </defs>
  );
}
