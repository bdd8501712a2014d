import type { Compared, Figures } from '@zetopsis/contract';
import { type Counted, cutsAt, drawStrip, stripInWords } from './stripModel.ts';

const FILLS = ['', 'var(--fill-1)', 'var(--fill-2)', 'var(--fill-3)', 'var(--fill-4)'];
const percent = (share: number) => `${(Math.max(0, Math.min(1, share)) * 100).toFixed(2)}%`;

interface Props {
  readonly of: Counted;
  readonly figures: Figures;
  /** The same in the window compared with: a thin double line under the fill. */
  readonly against?: Compared | null;
  readonly height?: number;
  /** Uses of the children, in their order: the fill is cut into their shares. */
  readonly cuts?: readonly number[];
  /** When a row around it already says everything. */
  readonly silent?: boolean;
  /** What the whole length stands for where there is no limit; its own marks alone when not given. */
  readonly openLength?: number;
}

/** The headroom strip: full length = the capacity that applies. One component everywhere (design/look.md). */
export function Strip({ of, figures, against = null, height = 17, cuts, silent = false, openLength }: Props) {
  const strip = drawStrip(figures, against, openLength ?? null);
  const words = stripInWords(of, figures, against);
  const bar = height - 5;
  const colour = strip.over ? 'var(--critical)' : FILLS[strip.fill]!;
  const named = silent ? { 'aria-hidden': true } : { role: 'img', 'aria-label': words };
  return (
    <svg className="block w-full overflow-visible" height={height} {...named}>
      <title>{words}</title>
      <svg width="100%" height={height} className="overflow-visible">
        <rect
          x="0.5"
          y="0.5"
          width="100%"
          height={bar - 1}
          fill="var(--sheet)"
          fillOpacity="0.6"
          stroke={strip.open ? 'none' : 'var(--structure)'}
        />
        {strip.open && <path d={`M0.5 0.5V${bar - 0.5}`} stroke="var(--structure)" />}
        {strip.open && (
          <line x1="0" x2="100%" y1={bar - 0.5} y2={bar - 0.5} stroke="var(--structure)" strokeDasharray="2 3" />
        )}
        {strip.open && <line x1="0" x2="100%" y1="0.5" y2="0.5" stroke="var(--structure)" strokeDasharray="2 3" />}
        {strip.use !== null && <rect x="1" y="1" width={percent(strip.use)} height={bar - 2} fill={colour} />}
        {strip.over && (
          <svg x="100%" overflow="visible">
            <path d={`M0 -1h6v${bar + 2}h-6z`} fill="var(--critical)" />
          </svg>
        )}
        {strip.use !== null &&
          cutsAt(cuts, strip.use).map((share) => (
            <line
              key={share}
              x1={percent(share)}
              x2={percent(share)}
              y1="1"
              y2={bar - 1}
              stroke="var(--sheet)"
              strokeWidth="1"
            />
          ))}
        {strip.peak !== null && strip.peak > (strip.use ?? 0) && (
          <line
            x1={percent(strip.use ?? 0)}
            x2={percent(strip.peak)}
            y1={bar / 2}
            y2={bar / 2}
            stroke={colour}
            strokeWidth="2"
          />
        )}
        {strip.request !== null && strip.request <= 1 && (
          <svg x={percent(strip.request)} overflow="visible">
            <path d={`M0 ${bar - 4}v7`} stroke="var(--ink)" strokeWidth="1.4" />
          </svg>
        )}
        {strip.against !== null && (
          <>
            <line x1="0" x2={percent(strip.against)} y1={height - 3.6} y2={height - 3.6} stroke="var(--ink)" />
            <line x1="0" x2={percent(strip.against)} y1={height - 1.2} y2={height - 1.2} stroke="var(--ink)" />
          </>
        )}
        {strip.heading !== null && (
          <svg x={percent(Math.min(strip.heading, 0.995))} overflow="visible">
            <title>heading: where it gets to when it goes on as lately, as long again as it was looked at</title>
            <path
              d={`M-4 ${bar / 2 - 4}l4 4l-4 4`}
              fill="none"
              stroke={strip.heading < (strip.use ?? 0) && strip.fill > 2 ? 'var(--on-fill)' : 'var(--ink)'}
              strokeWidth="1.5"
            />
          </svg>
        )}
        {strip.use === null && strip.peak === null && (
          <line x1="2" x2="100%" y1={bar / 2} y2={bar / 2} stroke="var(--line)" strokeDasharray="1 4" />
        )}
      </svg>
    </svg>
  );
}
