import type { MeasureAnswer } from '@zetopsis/contract';
import { percentile, percentileOfBuckets } from '@zetopsis/core/statistics';
import type { MeasureLine, Shown } from '../measuresModel.ts';

export type Picture = 'lines' | 'areas' | 'table' | 'figures' | 'bars' | 'heat' | 'spread' | 'bands';
/** How an answer can be drawn, each with its word. */
export const PICTURES: readonly (readonly [Picture, string])[] = [
  ['lines', 'lines'],
  ['areas', 'stacked areas'],
  ['bands', 'bands of percentiles'],
  ['heat', 'heat map'],
  ['spread', 'distribution at a moment'],
  ['bars', 'ranked bars'],
  ['figures', 'figures with their traces'],
  ['table', 'table of moments'],
];
export const valuesOf = ({ points }: MeasureLine): (number | null)[] => points.map(([, value]) => value);
export const hasBuckets = (lines: readonly MeasureLine[]): boolean =>
  lines.some(({ buckets }) => buckets !== undefined);
/** Buckets have no values of their own: they are drawn as what they are. */
export const OF_BUCKETS: ReadonlySet<Picture> = new Set(['heat', 'spread', 'bands']);
export function pictureOf(wanted: string, lines: readonly MeasureLine[]): Picture {
  const buckets = hasBuckets(lines);
  const found = PICTURES.find(([own]) => own === wanted)?.[0];
  if (buckets) return found !== undefined && OF_BUCKETS.has(found) ? found : 'heat';
  return found ?? 'lines';
}

type Buckets = NonNullable<MeasureLine['buckets']>;
/** Observations between two bounds at a moment; null where nothing was read. */
function between({ counts }: Buckets, bound: number, at: number): number | null {
  const upTo = counts[bound]?.[at] ?? null;
  const below = bound === 0 ? 0 : (counts[bound - 1]?.[at] ?? null);
  return upTo === null || below === null ? null : Math.max(0, upTo - below);
}
/** Those lines whose bounds are the first one's: the others cannot stand in the same rows. */
function alike(drawn: readonly Shown[]): { readonly own: readonly Buckets[]; readonly left: number } {
  const all = drawn.flatMap(({ line }) => line.buckets ?? []);
  const bounds = JSON.stringify(all[0]?.bounds ?? []);
  const own = all.filter((one) => JSON.stringify(one.bounds) === bounds);
  return { own, left: all.length - own.length };
}
/** Rows between bounds, the lowest first, with what they are called. */
function bucketRows(bounds: Buckets['bounds'], words: (value: number) => string): string[] {
  return bounds.map((bound, i) => {
    if (bound === null) return i === 0 ? 'all' : `above ${words(bounds[i - 1]!)}`;
    return i === 0 ? `up to ${words(bound)}` : `${words(bounds[i - 1]!)} to ${words(bound)}`;
  });
}

export interface Heat {
  readonly rows: readonly string[];
  /** Ends of the columns. */
  readonly times: readonly number[];
  /** cells[row][column]; null where nothing was read. */
  readonly cells: readonly (readonly (number | null)[])[];
  readonly most: number;
  /** Lines that do not fit in. */
  readonly left: number;
}
const COLUMNS = 110;
const ROWS = 40;
/** Time across, lines or buckets down: the mean of the moments that come together in a column. */
export function heatOf(drawn: readonly Shown[], words: (value: number) => string): Heat {
  const times = drawn[0]?.line.points.map(([at]) => at) ?? [];
  const { own, left } = alike(drawn);
  const [first] = own;
  const rows = first ? bucketRows(first.bounds, words) : drawn.slice(0, ROWS).map(({ caption }) => caption);
  const told = (row: number, at: number): number | null => {
    if (!first) return drawn[row]?.line.points[at]?.[1] ?? null;
    const all = own.map((one) => between(one, row, at)).filter((value) => value !== null);
    return all.length === 0 ? null : all.reduce((sum, value) => sum + value, 0);
  };
  const wide = Math.max(1, Math.ceil(times.length / COLUMNS));
  const columns = Array.from({ length: Math.ceil(times.length / wide) }, (_, i) => i * wide);
  let most = 0;
  const cells = rows.map((_, row) =>
    columns.map((begin) => {
      let sum = 0;
      let count = 0;
      for (let at = begin; at < Math.min(times.length, begin + wide); at++) {
        const value = told(row, at);
        if (value === null) continue;
        sum += value;
        count++;
      }
      if (count === 0) return null;
      most = Math.max(most, sum / count);
      return sum / count;
    }),
  );
  return {
    rows,
    times: columns.map((begin) => times[Math.min(times.length, begin + wide) - 1]!),
    cells,
    most,
    left: first ? left : Math.max(0, drawn.length - ROWS),
  };
}

export interface SpreadStep {
  readonly name: string;
  readonly count: number;
}
export interface Spread {
  readonly steps: readonly SpreadStep[];
  /** The half, nine of ten and 99 of 100 lie below these; null where it is not known. */
  readonly below: readonly { readonly percentile: number; readonly value: number | null; readonly atLeast: boolean }[];
}
const PERCENTILES = [50, 90, 99] as const;
const BINS = 16;
/** How values lie at one moment: observations by bucket, or lines by their values. */
export function spreadAt(drawn: readonly Shown[], at: number, words: (value: number) => string): Spread {
  const { own } = alike(drawn);
  const [first] = own;
  if (first) {
    const steps = bucketRows(first.bounds, words).map((name, row) => ({
      name,
      count: own.reduce((sum, one) => sum + (between(one, row, at) ?? 0), 0),
    }));
    return { steps, below: PERCENTILES.map((percentile) => ({ percentile, ...percentileAt(own, at, percentile) })) };
  }
  const values = drawn
    .map(({ line }) => line.points[at]?.[1] ?? null)
    .filter((value) => value !== null)
    .sort((a, b) => a - b);
  if (values.length === 0) return { steps: [], below: [] };
  const [least, most] = [values[0]!, values.at(-1)!];
  const width = (most - least || Math.abs(most) || 1) / BINS;
  const steps = Array.from({ length: most === least ? 1 : BINS }, (_, i) => {
    const [from, to] = [least + i * width, least + (i + 1) * width];
    const last = i === BINS - 1 || most === least;
    return {
      name: most === least ? words(least) : `${words(from)} to ${words(to)}`,
      count: values.filter((value) => value >= from && (last || value < to)).length,
    };
  });
  return {
    steps,
    below: PERCENTILES.map((share) => ({ percentile: share, value: percentile(values, share / 100), atLeast: false })),
  };
}
function percentileAt(
  own: readonly Buckets[],
  at: number,
  percentile: number,
): { readonly value: number | null; readonly atLeast: boolean } {
  const [first] = own;
  if (!first) return { value: null, atLeast: false };
  const told = percentileOfBuckets(
    {
      bounds: first.bounds.map((bound) => bound ?? Number.POSITIVE_INFINITY),
      counts: (bound) => own.reduce((sum, one) => sum + (one.counts[bound]?.[at] ?? 0), 0),
      exponential: first.exponential,
    },
    percentile,
  );
  return told ?? { value: null, atLeast: false };
}

export interface BandPoint {
  readonly at: number;
  readonly half: number | null;
  /** From the tenth (buckets: the half) to the 90th. */
  readonly wide: readonly [number, number] | null;
  /** From the 90th to the 99th, of buckets; the most, of lines. */
  readonly upper: readonly [number, number] | null;
}
/** Bands over time: of a histogram its 50th, 90th and 99th percentile, of lines the 10th, 50th, 90th and the most. */
export function bandsOf(drawn: readonly Shown[]): readonly BandPoint[] {
  const { own } = alike(drawn);
  const points = drawn[0]?.line.points ?? [];
  return points.map(([at], i): BandPoint => {
    if (own.length > 0) {
      const [half, most, all] = PERCENTILES.map((percentile) => percentileAt(own, i, percentile).value);
      return {
        at,
        half: half ?? null,
        wide: half != null && most != null ? [half, most] : null,
        upper: most != null && all != null ? [most, all] : null,
      };
    }
    const values = drawn
      .map(({ line }) => line.points[i]?.[1] ?? null)
      .filter((value) => value !== null)
      .sort((a, b) => a - b);
    if (values.length === 0) return { at, half: null, wide: null, upper: null };
    const [low, half, most] = [0.1, 0.5, 0.9].map((share) => percentile(values, share)!); // there are some
    return { at, half: half!, wide: [low!, most!], upper: [most!, values.at(-1)!] };
  });
}
/** The trace that an exemplar names; null where it names none. */
export const traceOf = ({ labels }: MeasureAnswer['examples'][number]): string | null =>
  labels['trace_id'] ?? labels['traceId'] ?? labels['trace'] ?? null;

/** Ticks across and up that one can tell apart. */
const TICKS = { across: 90, up: 16 } as const;
/** Those that lie in a picture, one in each place, so that none covers another. */
export function examplesApart(
  examples: MeasureAnswer['examples'],
  { from, to, top }: { readonly from: number; readonly to: number; readonly top: number },
): MeasureAnswer['examples'] {
  const taken = new Set<string>();
  return examples.filter(({ at, value }) => {
    if (at < from || at > to || value < 0 || value > top) return false;
    const place = `${Math.floor(((at - from) / Math.max(1, to - from)) * TICKS.across)} ${Math.floor((value / top) * TICKS.up)}`;
    if (taken.has(place)) return false;
    taken.add(place);
    return true;
  });
}
