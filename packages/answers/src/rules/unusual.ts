import { isThere } from '@zetopsis/core/measures';
import type { UnusualSide } from '@zetopsis/core/rules';
import { percentile } from '@zetopsis/core/statistics';
import { type Band, type JudgedLine, lineKey } from './measureLines.ts';

/** What is usual of a line: its middle, and where one in ten lies below and above. */
export interface UsualLine {
  readonly middle: ArrayLike<number>;
  readonly band: Band;
}
/** A band is never narrower than this share of its middle: what never moved may move a little. */
const NARROWEST = 0.02;
const GONE = Number.NaN;

/**
 * Lines as distances from what is usual, in bands: 0 at its middle, 1 where one in ten of what was before lies beyond. A line of
 * which nothing usual is known has no value.
 */
export function departures(
  lines: readonly JudgedLine[],
  usualOf: (line: JudgedLine) => UsualLine | null,
  side: UnusualSide,
): JudgedLine[] {
  return lines.map((line) => {
    const usual = usualOf(line);
    const values = Float64Array.from({ length: line.values.length }, (_, i) =>
      usual === null || !isThere(line.marks, i) ? GONE : distance(line.values[i]!, usual, i, side),
    );
    const nothing = new Float64Array(values.length).fill(GONE);
    const band = usual?.band ?? { low: nothing, high: nothing };
    return {
      labels: line.labels,
      name: line.name,
      values,
      marks: line.marks,
      measured: { values: line.values, usual: band },
    };
  });
}
function distance(value: number, { middle, band }: UsualLine, i: number, side: UnusualSide): number {
  const usual = middle[i]!;
  const above = value >= usual;
  const edge = above ? band.high[i]! - usual : usual - band.low[i]!;
  const apart = Math.abs(value - usual) / Math.max(edge, Math.abs(usual) * NARROWEST, Number.MIN_VALUE);
  const far = Math.min(apart, 1000); // farther is nobody's threshold, and what is usually nothing would be endlessly far
  if (side === 'either') return far;
  return above === (side === 'above') ? far : 0;
}

/** What the step “usual” tells, by line. */
export function usualByHour(usual: readonly JudgedLine[]): (line: JudgedLine) => UsualLine | null {
  const known = new Map(usual.map((line) => [lineKey(line), line]));
  return (line) => {
    const own = known.get(lineKey(line));
    return own?.band ? { middle: own.values, band: own.band } : null;
  };
}
/** Fewer say nothing of what is usual. */
const FEWEST = 10;
/** What a quiet stretch had, at every moment the same; `points`: how many are asked about. */
export function usualOfQuiet(quiet: readonly JudgedLine[], points: number): (line: JudgedLine) => UsualLine | null {
  const known = new Map(
    quiet.flatMap((line): [string, UsualLine][] => {
      const values = Array.from(line.values).filter((value, i) => isThere(line.marks, i) && Number.isFinite(value));
      if (values.length < FEWEST) return [];
      const all = (share: number) => new Float64Array(points).fill(percentile(values, share)!);
      return [[lineKey(line), { middle: all(0.5), band: { low: all(0.1), high: all(0.9) } }]];
    }),
  );
  return (line) => known.get(lineKey(line)) ?? null;
}
