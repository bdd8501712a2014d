import type { Counted } from './stripModel.ts';

interface Props {
  readonly of: Counted;
  /** Means of the two windows; null where nothing was read. */
  readonly window: number | null;
  readonly against: number | null;
  /** What the full length stands for: the same for every row of a column. */
  readonly scale: number;
  readonly height?: number;
}

const percent = (share: number) => `${(Math.max(0, Math.min(1, share)) * 100).toFixed(2)}%`;

/** Both windows on one axis: the window above the line, the one compared with below (design/look.md). */
export function MirrorStrip({ of, window, against, scale, height = 17 }: Props) {
  const middle = height / 2;
  const bar = middle - 2;
  return (
    <svg className="block w-full overflow-visible" height={height} aria-hidden="true">
      <title>{`${of.name}: ${of.amount(window)} on average in the window, ${of.amount(against)} in the one compared with`}</title>
      {window !== null && <rect x="0" y="1" width={percent(window / scale)} height={bar} fill="var(--fill-3)" />}
      <line x1="0" x2="100%" y1={middle} y2={middle} stroke="var(--structure)" />
      {against !== null && (
        <rect
          x="0"
          y={middle + 1}
          width={percent(against / scale)}
          height={bar}
          fill="var(--sheet)"
          stroke="var(--ink)"
          strokeWidth="1"
        />
      )}
      {window === null && against === null && (
        <line x1="2" x2="100%" y1={middle} y2={middle} stroke="var(--line)" strokeDasharray="1 4" />
      )}
    </svg>
  );
}
