import type { MeasureAnswer } from '@zetopsis/contract';
import {
  AT_LEAST,
  type Buckets,
  type Evaluated,
  FILLED,
  isThere,
  type Line,
  PARTIAL,
  type Plan,
} from '@zetopsis/core/measures';
import type { EpochMs } from '@zetopsis/core/units';

const MOST_LINES = 500;
/** Of all lines together. */
const MOST_POINTS = 100_000;

/** As an answer has them, so many that it can be read. */
export function linesOf(
  { times, lines }: Pick<Evaluated, 'times' | 'lines'>,
  unit: string,
  atMost = MOST_LINES,
): Pick<MeasureAnswer, 'series' | 'left'> {
  const wide = Math.max(1, ...lines.map(({ buckets }) => buckets?.bounds.length ?? 1));
  const most = Math.min(atMost, Math.max(1, Math.floor(MOST_POINTS / Math.max(1, times.length * wide))));
  return {
    series: lines.slice(0, most).map((line) => ({
      labels: { ...line.labels },
      name: line.name,
      unit,
      points: [...times].map(
        (time, i): PointAnswer => (line.buckets ? [time, null] : pointOf(time, line.values[i]!, line.marks[i]!)),
      ),
      ...(line.band
        ? {
            band: [...times].map((time, i): [number, number | null, number | null] => [
              time,
              finite(line.band!.low[i]!),
              finite(line.band!.high[i]!),
            ]),
          }
        : {}),
      ...(line.buckets ? { buckets: bucketsOf(line.buckets) } : {}),
    })),
    left: Math.max(0, lines.length - most),
  };
}
const bucketsOf = ({ bounds, counts, exponential }: Buckets) => ({
  exponential,
  bounds: bounds.map(finite),
  counts: counts.map((own) => Array.from(own, finite)),
});
const finite = (value: number): number | null => (Number.isFinite(value) ? value : null);
type PointAnswer = MeasureAnswer['series'][number]['points'][number];
function pointOf(time: EpochMs, value: number, marks: number): PointAnswer {
  if (!isThere(Uint8Array.of(marks), 0)) return [time, null];
  const flags = [
    ...((marks & PARTIAL) !== 0 ? (['partial'] as const) : []),
    ...((marks & AT_LEAST) !== 0 ? (['at least'] as const) : []),
    ...((marks & FILLED) !== 0 ? (['filled'] as const) : []),
    ...(Number.isNaN(value) ? (['not a number'] as const) : []),
    ...(value === Number.POSITIVE_INFINITY ? (['infinite'] as const) : []),
    ...(value === Number.NEGATIVE_INFINITY ? (['-infinite'] as const) : []),
  ];
  return flags.length === 0 ? [time, value] : [time, finite(value), flags];
}
/** Which of the reasons it is that nothing is drawn. */
export function whyNothing(plan: Plan, { lines }: Evaluated, read: number): string | null {
  if (lines.some(({ marks }) => marks.some((_, i) => isThere(marks, i)))) return null;
  if (plan.reads.length === 0) return null;
  if (plan.notes.length > 0 && read === 0) return plan.notes[0]!;
  if (read === 0)
    return 'No series fits what is read, as far as you may see. Look at its conditions, and at the scope.';
  if (lines.length === 0) return 'The steps leave no line: a condition, “top” or “keep” lets none through.';
  return 'Series fit, and nothing of them was read in this window. Sources says whether their endpoints deliver.';
}

/** How many points of the lines have a value, and what is special about some. */
export function pointsOf(lines: readonly Line[]): MeasureAnswer['steps'][number]['points'] {
  const points = { there: 0, none: 0, partial: 0, atLeast: 0, filled: 0 };
  for (const { marks } of lines)
    for (let i = 0; i < marks.length; i++) {
      if (!isThere(marks, i)) {
        points.none++;
        continue;
      }
      points.there++;
      const own = marks[i]!;
      if ((own & PARTIAL) !== 0) points.partial++;
      if ((own & AT_LEAST) !== 0) points.atLeast++;
      if ((own & FILLED) !== 0) points.filled++;
    }
  return points;
}
