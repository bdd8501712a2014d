import type { DurationMs, EpochMs } from '../units/index.ts';
import { ByteReader, ByteWriter, DamagedBytes } from './byteCursor.ts';
import type { Samples } from './chunk.ts';
import { isEndMarker } from './endMarker.ts';
import { oftenTheSame } from './oftenTheSame.ts';
import { readTimes, writeTimes } from './times.ts';
import { decodeColumn, encodeColumn } from './values.ts';

/**
 * What is kept of each bucket: `count` samples that are numbers, `nans` that are none, and how many milliseconds before
 * the bucket's end the last number was read (`gap`).
 */
export const AGGREGATES = [
  'count',
  'sum',
  'squares',
  'min',
  'max',
  'first',
  'last',
  'increase',
  'nans',
  'gap',
] as const;
export type Aggregate = (typeof AGGREGATES)[number];

/**
 * A series in buckets of one length: bucket i holds the samples after starts[i] up to starts[i] + length, as windows do,
 * and column[i] is the aggregate of their values. Buckets without a number are left out; starts ascend, in whole lengths.
 * `increase` is what a counter grew by within the bucket, resets added back; what it grew by between two buckets follows
 * from the last value of the one and the first of the next, so that buckets can be joined without knowing more.
 */
export interface RollUp {
  readonly starts: Float64Array;
  readonly columns: Readonly<Record<Aggregate, Float64Array>>;
}

/** What a counter grew by from one value to the next: where it fell, it began again at 0. */
export const grown = (before: number, value: number): number => (value >= before ? value - before : value);

class Buckets {
  readonly starts: number[] = [];
  readonly columns: Record<Aggregate, number[]> = {
    count: [],
    sum: [],
    squares: [],
    min: [],
    max: [],
    first: [],
    last: [],
    increase: [],
    nans: [],
    gap: [],
  };
  /** Takes what is later than everything so far, and joins it to a bucket that began already. */
  add(start: EpochMs, of: (aggregate: Aggregate) => number): void {
    const { columns, starts } = this;
    const i = starts.length - 1;
    if (starts[i] !== start) {
      starts.push(start);
      for (const aggregate of AGGREGATES) columns[aggregate].push(of(aggregate));
      return;
    }
    const [first, last] = [columns.first[i]!, columns.last[i]!];
    // where nothing began anew it is the difference itself, not a sum of many that are rounded
    const plain =
      of('first') >= last && columns.increase[i] === last - first && of('increase') === of('last') - of('first');
    if (plain) columns.increase[i] = of('last') - first;
    else columns.increase[i]! += grown(last, of('first')) + of('increase');
    columns.count[i]! += of('count');
    columns.sum[i]! += of('sum');
    columns.squares[i]! += of('squares');
    columns.min[i] = Math.min(columns.min[i]!, of('min'));
    columns.max[i] = Math.max(columns.max[i]!, of('max'));
    columns.last[i] = of('last');
    columns.nans[i]! += of('nans');
    columns.gap[i] = of('gap');
  }
}
function finished(starts: readonly number[], columns: Record<Aggregate, number[]>): RollUp {
  return {
    starts: Float64Array.from(starts),
    columns: Object.fromEntries(
      AGGREGATES.map((aggregate) => [aggregate, Float64Array.from(columns[aggregate])]),
    ) as RollUp['columns'], // every aggregate stands in the list
  };
}

/** The bucket that a moment lies in: those of a border are in the one that ends there. */
const startOf = (time: EpochMs, length: DurationMs): EpochMs => (Math.ceil(time / length) - 1) * length;

/** Room for buckets; used again and again, never across turns. */
let room = columnsOf(64);
function columnsOf(count: number): Record<Aggregate | 'starts', Float64Array> {
  const columns = [...AGGREGATES, 'starts'].map((name) => [name, new Float64Array(count)]);
  return Object.fromEntries(columns) as Record<Aggregate | 'starts', Float64Array>; // every one
}

/** End markers say nothing; a bucket in which nothing but NaN was read is none. */
export function rollUp({ times, values }: Samples, length: DurationMs): RollUp {
  const samples = times.length;
  const most = samples === 0 ? 0 : Math.min(samples, Math.ceil((times[samples - 1]! - times[0]!) / length) + 2);
  if (room.starts.length < most) room = columnsOf(2 * most);
  const to = room;
  let buckets = 0;
  for (let s = 0; s < samples; ) {
    const start = startOf(times[s]!, length);
    const end = start + length;
    let [count, sum, squares, min, max, first, last, nans, lastAt] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
    /** What the runs that are over within it came to. */
    let lost = 0;
    for (; s < samples && times[s]! <= end; s++) {
      const value = values[s]!;
      if (Number.isNaN(value)) {
        if (!isEndMarker(value)) nans++;
        continue;
      }
      if (count === 0) {
        first = min = max = sum = value;
        squares = value * value;
      } else {
        if (value < last) lost += last;
        sum += value;
        squares += value * value;
        if (value < min || Object.is(value, -0)) min = Math.min(min, value);
        if (value > max || value === 0) max = Math.max(max, value);
      }
      count++;
      last = value;
      lastAt = times[s]!;
    }
    if (count === 0) continue;
    to.starts[buckets] = start;
    to.count[buckets] = count;
    to.sum[buckets] = sum;
    to.squares[buckets] = squares;
    to.min[buckets] = min;
    to.max[buckets] = max;
    to.first[buckets] = first;
    to.last[buckets] = last;
    to.increase[buckets] = count === 1 ? 0 : last - first + lost;
    to.nans[buckets] = nans;
    to.gap[buckets] = end - lastAt;
    buckets++;
  }
  const columns = Object.fromEntries(AGGREGATES.map((name) => [name, to[name].slice(0, buckets)]));
  return { starts: to.starts.slice(0, buckets), columns: columns as RollUp['columns'] }; // every one
}

/**
 * Several parts of one series, each later than the one before, as one; buckets of `was` milliseconds become such of
 * `length`, a multiple of it.
 */
export function joinRollUps(parts: readonly RollUp[], length: DurationMs, was: DurationMs = length): RollUp {
  const buckets = new Buckets();
  for (const { starts, columns } of parts)
    for (let i = 0; i < starts.length; i++) {
      const start = Math.floor(starts[i]! / length) * length;
      const later = start + length - (starts[i]! + was);
      buckets.add(start, (aggregate) => (aggregate === 'gap' ? columns.gap[i]! + later : columns[aggregate][i]!));
    }
  return finished(buckets.starts, buckets.columns);
}

/** A part of it: the buckets from `from` until before `to`. */
export function sliceRollUp({ starts, columns }: RollUp, from: EpochMs, to: EpochMs): RollUp {
  let low = 0;
  while (low < starts.length && starts[low]! < from) low++;
  let high = low;
  while (high < starts.length && starts[high]! < to) high++;
  const cut = (list: Float64Array) => list.slice(low, high);
  return {
    starts: cut(starts),
    columns: Object.fromEntries(AGGREGATES.map((name) => [name, cut(columns[name])])) as RollUp['columns'],
  };
}

/** One packed column per aggregate, so that only what is needed is read; null where it follows from the others. */
export type PackedRollUp = { readonly buckets: Uint8Array } & Readonly<Record<Aggregate, Uint8Array | null>>;

/** What was rolled up before gaps were kept: the last number came before the border, nobody knows how long. */
export const UNKNOWN_GAP = 1;
/**
 * An aggregate that others imply, when all its values are just that: a value that stood still has its last, least and
 * most equal to its first; a counter without reset grew by last − first.
 */
export function implied(aggregate: Aggregate, of: (aggregate: Aggregate) => Float64Array, i: number): number | null {
  switch (aggregate) {
    case 'last':
    case 'min':
      return of('first')[i]!;
    case 'max':
      return of('last')[i]!;
    case 'sum':
      return of('count')[i]! * of('first')[i]!;
    case 'squares':
      return of('count')[i]! * (of('first')[i]! * of('first')[i]!);
    case 'increase':
      return of('last')[i]! - of('first')[i]!;
    case 'nans':
      return 0;
    case 'gap':
      return UNKNOWN_GAP;
    case 'count':
    case 'first':
      return null;
  }
}
/** The whole column at once; where it equals another, it is that other one. */
function impliedColumn(name: Aggregate, of: (aggregate: Aggregate) => Float64Array, count: number): Float64Array {
  if (name === 'last' || name === 'min') return of('first');
  if (name === 'max') return of('last');
  if (name === 'increase') {
    const [last, first] = [of('last'), of('first')];
    return last.map((value, i) => value - first[i]!);
  }
  return Float64Array.from({ length: count }, (_, i) => implied(name, of, i) ?? Number.NaN);
}
const NEEDS: Readonly<Record<Aggregate, readonly Aggregate[]>> = {
  count: [],
  first: [],
  last: ['first'],
  min: ['first'],
  max: ['last', 'first'],
  sum: ['count', 'first'],
  squares: ['count', 'first'],
  increase: ['last', 'first'],
  nans: [],
  gap: [],
};
/** Columns that must be read to know these aggregates. */
export function columnsFor(wanted: readonly Aggregate[]): Aggregate[] {
  return AGGREGATES.filter((name) => wanted.some((one) => one === name || NEEDS[one].includes(name)));
}

/**
 * Written in the place of `increase`: nothing began anew in the whole row, so that a counter's last values tell all of its
 * growth but the first value, which stands here. u8 · f64.
 */
const STEADY = 3;
function steady({ first, last, increase }: RollUp['columns']): Uint8Array | null {
  if (first.length === 0) return null;
  for (let i = 0; i < first.length; i++)
    if (!Object.is(increase[i], last[i]! - first[i]!) || (i > 0 && first[i]! < last[i - 1]!)) return null;
  const out = new ByteWriter();
  out.byte(STEADY);
  out.double(first[0]!);
  return out.finish();
}
/** The first value of a row in which nothing began anew; null: something may have. */
export function firstOfSteady(increase: Uint8Array | null): number | null {
  if (increase?.[0] !== STEADY) return null;
  const input = new ByteReader(increase);
  input.byte();
  return input.double();
}

/** Series of one page have the same buckets, as many samples in each, and the same gaps behind them. */
const writtenStarts = oftenTheSame((starts) => {
  const out = new ByteWriter();
  out.varint(starts.length);
  if (starts.length > 0) writeTimes(out, starts);
  return out.finish();
});
const writtenCounts = oftenTheSame(encodeColumn);
const writtenGaps = oftenTheSame(encodeColumn);

export function packRollUp({ starts, columns }: RollUp): PackedRollUp {
  const of = (name: Aggregate) => columns[name];
  const pack = (name: Aggregate): Uint8Array | null =>
    columns[name].every((value, i) => Object.is(value, implied(name, of, i))) ? null : encodeColumn(columns[name]);
  return {
    buckets: writtenStarts(starts),
    count: writtenCounts(columns.count),
    sum: pack('sum'),
    squares: pack('squares'),
    min: pack('min'),
    max: pack('max'),
    first: pack('first') ?? encodeColumn([]),
    last: pack('last'),
    increase: steady(columns) ?? pack('increase'),
    nans: pack('nans'),
    gap: columns.gap.every((gap) => gap === UNKNOWN_GAP) ? null : writtenGaps(columns.gap),
  };
}

const MAX_BUCKETS = 1_000_000;
const EMPTY = new Float64Array(0);

/** Buckets of a row, whose starts are read next. */
export function bucketsBegun(buckets: Uint8Array): { input: ByteReader; count: number } {
  const input = new ByteReader(buckets);
  const count = input.varint();
  if (count > MAX_BUCKETS) throw new DamagedBytes('a roll-up claims too many buckets');
  return { input, count };
}

/** `packed` needs the columns that `columnsFor` says; aggregates that were not wanted come back empty. */
export function unpackRollUp(
  packed: { readonly buckets: Uint8Array } & Readonly<Partial<Record<Aggregate, Uint8Array | null>>>,
  wanted: readonly Aggregate[] = AGGREGATES,
): RollUp {
  const { input, count } = bucketsBegun(packed.buckets);
  const starts = new Float64Array(count);
  if (count > 0) readTimes(input, starts);
  const known = new Map<Aggregate, Float64Array>();
  const of = (name: Aggregate): Float64Array => {
    const before = known.get(name);
    if (before) return before;
    const bytes = name === 'increase' && packed.increase?.[0] === STEADY ? null : packed[name];
    let values: Float64Array;
    if (bytes) values = decodeColumn(bytes, count);
    else values = impliedColumn(name, of, count);
    known.set(name, values);
    return values;
  };
  return {
    starts,
    columns: Object.fromEntries(
      AGGREGATES.map((name) => [name, wanted.includes(name) ? of(name) : EMPTY]),
    ) as RollUp['columns'],
  };
}

/**
 * A roll-up as samples again, each when its bucket's last number was read: of a counter what it had grown to since it was
 * at 0 before the first bucket, so that rates over whole buckets are exact; of anything else its last value. Needs `first`,
 * `last`, `increase` and `gap`.
 */
export function samplesOfRollUp({ starts, columns }: RollUp, length: DurationMs, cumulative: boolean): Samples {
  const times = starts.map((start, i) => start + length - columns.gap[i]!);
  if (!cumulative) return { times, values: columns.last };
  const values = new Float64Array(starts.length);
  let total = columns.first[0] ?? 0;
  for (let i = 0; i < starts.length; i++) {
    if (i > 0) total += grown(columns.last[i - 1]!, columns.first[i]!);
    total += columns.increase[i]!;
    values[i] = total;
  }
  return { times, values };
}
