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

/** What an answer holds; `points` of all lines together. */
interface Most {
  readonly lines: number;
  readonly points: number;
}
/** So many that they can be looked at, and as many as one may ask for. */
const SHOWN: Most = { lines: 500, points: 100_000 };
const ALL: Most = { lines: 5000, points: 2_000_000 };
const PIECE = 262_144; // bytes

type Made = Pick<Evaluated, 'times' | 'lines'>;
/** As an answer has them. */
export function linesOf(made: Made, unit: string, atMost: number): Pick<MeasureAnswer, 'series' | 'left'> {
  const count = countOf(made, { ...SHOWN, lines: atMost });
  return {
    series: made.lines.slice(0, count).map((line) => lineOf(line, made.times, unit)),
    left: made.lines.length - count,
  };
}
/** The same written as JSON, in pieces that are sent one after the other: never is it one long text. */
export function writtenLines(made: Made, unit: string, all: boolean): Uint8Array[] {
  const count = countOf(made, all ? ALL : SHOWN);
  const encoder = new TextEncoder();
  const pieces: Uint8Array[] = [];
  let text = '"series":[';
  made.lines.slice(0, count).forEach((line, i) => {
    text += `${i === 0 ? '' : ','}${JSON.stringify(lineOf(line, made.times, unit))}`;
    if (text.length < PIECE) return;
    pieces.push(encoder.encode(text));
    text = '';
  });
  pieces.push(encoder.encode(`${text}],"left":${made.lines.length - count}`));
  return pieces;
}
function countOf({ times, lines }: Made, most: Most): number {
  const wide = Math.max(1, ...lines.map(({ buckets }) => buckets?.bounds.length ?? 1));
  const fits = Math.max(1, Math.floor(most.points / Math.max(1, times.length * wide)));
  return Math.min(lines.length, most.lines, fits);
}
const lineOf = (line: Line, times: Float64Array, unit: string): MeasureAnswer['series'][number] => ({
  labels: { ...line.labels },
  name: line.name,
  unit,
  points: Array.from(
    times,
    (time, i): PointAnswer => (line.buckets ? [time, null] : pointOf(time, line.values[i]!, line.marks[i]!)),
  ),
  ...(line.band
    ? {
        band: Array.from(times, (time, i): [number, number | null, number | null] => [
          time,
          finite(line.band!.low[i]!),
          finite(line.band!.high[i]!),
        ]),
      }
    : {}),
  ...(line.buckets ? { buckets: bucketsOf(line.buckets) } : {}),
});
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
