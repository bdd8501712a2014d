import fc from 'fast-check';
import type { HistogramIn, SeriesIn } from '../src/measures/index.ts';
import { END_MARKER } from '../src/samples/index.ts';

export const INTERVAL = 15_000;
const START = 1_800_000_000_000;
export const SPAN = 80;
export const END = START + SPAN * INTERVAL;

/** One reading: how far it is late, how much came since the one before, and what happened meanwhile. */
export interface Happening {
  readonly late: number;
  readonly more: number;
  readonly is: 'read' | 'read' | 'missed' | 'restart' | 'gone' | 'not a number';
}
export const happenings = fc.array(
  fc.record({
    late: fc.integer({ min: 0, max: 4000 }),
    more: fc.integer({ min: 0, max: 50 }),
    is: fc.oneof(
      { weight: 20, arbitrary: fc.constant('read' as const) },
      { weight: 3, arbitrary: fc.constantFrom('missed' as const, 'restart' as const) },
      { weight: 1, arbitrary: fc.constantFrom('gone' as const, 'not a number' as const) },
    ),
  }),
  { minLength: SPAN, maxLength: SPAN },
);

/** A counter that was read as it happened; `came`: what truly came up to each of its samples since the one before. */
export function counterOf(all: readonly Happening[], labels: Record<string, string> = {}, bornKnown = true) {
  const times: number[] = [];
  const values: number[] = [];
  const ends: number[] = [];
  const starts: number[] = [];
  const created: { from: number; at: number }[] = [];
  const came: { at: number; more: number }[] = [];
  let value = 0;
  let missed = 0;
  let gone = false;
  all.forEach(({ late, more, is }, i) => {
    const at = START + i * INTERVAL + late;
    if (is === 'gone') {
      if (!gone && times.length > 0) {
        times.push(at);
        ends.push(values.length);
        values.push(0);
      }
      gone = true;
      value = 0;
      missed = 0;
      return;
    }
    if (is === 'restart') {
      value = 0;
      missed = 0;
      starts.push(at - 1000);
    }
    value += more;
    missed += more;
    if (is === 'missed') return;
    if (is === 'not a number') {
      times.push(at);
      values.push(Number.NaN);
      return;
    }
    if (bornKnown && (times.length === 0 || gone)) created.push({ from: at, at: at - 2000 });
    times.push(at);
    values.push(value);
    came.push({ at, more: missed });
    missed = 0;
    gone = false;
  });
  const series: SeriesIn = { labels, interval: INTERVAL, times, values: withEnds(values, ends), starts, created };
  return { series, came };
}

/** Typed, with an end at each of these places: an ordinary list may lose a marker's tag. */
function withEnds(values: readonly number[], ends: readonly number[]): Float64Array {
  const own = Float64Array.from(values);
  for (const place of ends) own[place] = END_MARKER;
  return own;
}
/** A level that goes its way. */
export const levels = fc.array(
  fc.record({
    late: fc.integer({ min: 0, max: 4000 }),
    value: fc.oneof(fc.integer({ min: -20, max: 20 }), fc.constant(Number.NaN)),
    is: fc.oneof(
      { weight: 12, arbitrary: fc.constant('read' as const) },
      { weight: 1, arbitrary: fc.constantFrom('missed' as const, 'gone' as const) },
    ),
  }),
  { minLength: SPAN, maxLength: SPAN },
);
type LevelHappening = typeof levels extends fc.Arbitrary<infer T> ? T : never;
export function gaugeOf(all: LevelHappening, labels: Record<string, string> = {}): SeriesIn {
  const times: number[] = [];
  const values: number[] = [];
  const ends: number[] = [];
  all.forEach(({ late, value, is }, i) => {
    if (is === 'missed') return;
    times.push(START + i * INTERVAL + late);
    if (is === 'gone') ends.push(values.length);
    values.push(is === 'gone' ? 0 : value);
  });
  return { labels, interval: INTERVAL, times, values: withEnds(values, ends) };
}

/** Observations counted by their size, each reading adding some. */
export function histogramOf(
  bounds: readonly number[],
  readings: readonly (readonly number[])[],
  labels: Record<string, string> = {},
): HistogramIn {
  const counts = bounds.map(() => 0);
  const parts = bounds.map(() => [] as number[]);
  const times: number[] = [];
  readings.forEach((observed, i) => {
    times.push(START + i * INTERVAL);
    bounds.forEach((bound, n) => {
      counts[n]! += observed.filter((value) => value <= bound).length;
      parts[n]!.push(counts[n]!);
    });
  });
  return {
    labels,
    interval: INTERVAL,
    bounds,
    exponential: false,
    parts: parts.map((values) => ({ labels, interval: INTERVAL, times, values })),
  };
}
export const grid = (from: number, to: number, step: number): Float64Array =>
  Float64Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, i) => from + i * step);
