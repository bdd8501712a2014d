import type { MeasureAnswer } from '@zetopsis/contract';
import { AT_LEAST, type Evaluated, FILLED, isThere, PARTIAL, type Plan } from '@zetopsis/core/measures';
import type { EpochMs } from '@zetopsis/core/units';

const MOST_LINES = 500;
/** Of all lines together. */
const MOST_POINTS = 100_000;

/** As an answer has them, so many that it can be read. */
export function linesOf({ times, lines }: Evaluated, unit: string): Pick<MeasureAnswer, 'series' | 'left'> {
  const most = Math.min(MOST_LINES, Math.max(1, Math.floor(MOST_POINTS / Math.max(1, times.length))));
  return {
    series: lines.slice(0, most).map((line) => ({
      labels: { ...line.labels },
      name: line.name,
      unit,
      points: [...times].map((time, i) => pointOf(time, line.values[i]!, line.marks[i]!)),
      ...(line.band
        ? {
            band: [...times].map((time, i): [number, number | null, number | null] => [
              time,
              finite(line.band!.low[i]!),
              finite(line.band!.high[i]!),
            ]),
          }
        : {}),
    })),
    left: Math.max(0, lines.length - most),
  };
}
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
