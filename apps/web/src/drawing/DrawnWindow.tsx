import { type PointerEvent, type ReactNode, useState } from 'react';

/** A window that is drawn is at least this long, ms. */
const SHORTEST = 60_000;
/** A pointer that moves less than this is a click, pixels. */
const CLICK = 4;

interface Drag {
  /** Shares of the axis. */
  readonly from: number;
  readonly to: number;
}

interface DrawnWindowProps {
  /** Time at both ends of the axis, ms. */
  readonly start: number;
  readonly end: number;
  /** Of the box, left and right of the axis, pixels. */
  readonly margins: readonly [left: number, right: number];
  readonly drawn: (window: { from: number; to: number }) => void;
  readonly children: ReactNode;
}

/** Drawing over a chart sets the window. It holds on to the axis, so that a chart that is drawn anew while one draws loses nothing. */
export function DrawnWindow({ start, end, margins, drawn, children }: DrawnWindowProps) {
  const [left, right] = margins;
  const [drag, setDrag] = useState<Drag | null>(null);
  const shareOf = (event: PointerEvent<HTMLDivElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const width = Math.max(1, box.width - left - right);
    return Math.max(0, Math.min(1, (event.clientX - box.left - left) / width));
  };
  const timeOf = (share: number) => Math.round(start + share * (end - start));
  return (
    <div
      className="relative touch-pan-y select-none"
      role="presentation"
      title="draw over it to set the window"
      onPointerDown={(event) => {
        if (event.button === 0) setDrag({ from: shareOf(event), to: shareOf(event) });
      }}
      onPointerMove={(event) => {
        if (!drag) return;
        if ((event.buttons & 1) === 0) return setDrag(null);
        const share = shareOf(event);
        const box = event.currentTarget.getBoundingClientRect();
        if (Math.abs(share - drag.from) * box.width >= CLICK && !event.currentTarget.hasPointerCapture(event.pointerId))
          event.currentTarget.setPointerCapture(event.pointerId);
        setDrag({ ...drag, to: share });
      }}
      onPointerUp={() => {
        setDrag(null);
        if (!drag) return;
        const [from, to] = [timeOf(Math.min(drag.from, drag.to)), timeOf(Math.max(drag.from, drag.to))];
        if (to - from >= SHORTEST) drawn({ from, to });
      }}
      onPointerCancel={() => setDrag(null)}
    >
      {children}
      {drag && drag.from !== drag.to && (
        <div className="pointer-events-none absolute inset-y-0" style={{ left, right }}>
          <span
            className="absolute inset-y-0 bg-ink opacity-10"
            style={{
              left: `${Math.min(drag.from, drag.to) * 100}%`,
              width: `${Math.abs(drag.to - drag.from) * 100}%`,
            }}
          />
        </div>
      )}
    </div>
  );
}
