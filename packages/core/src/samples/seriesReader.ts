import type { DurationMs } from '../units/index.ts';
import { ByteReader } from './byteCursor.ts';
import { type Chunk, chunkBegun } from './chunk.ts';
import {
  type Aggregate,
  bucketsBegun,
  columnsFor,
  firstOfSteady,
  grown,
  implied,
  type RollUp,
  UNKNOWN_GAP,
} from './rollUp.ts';
import { readTimes, skipTimes } from './times.ts';
import { decodeColumnInto, readValues } from './values.ts';

/** What may be asked for of buckets beside their last values, or their growth. */
export const BESIDE = ['count', 'sum', 'squares', 'min', 'max', 'nans'] as const satisfies readonly Aggregate[];
export type Beside = (typeof BESIDE)[number];
export type BesideColumns = Readonly<Partial<Record<Beside, Float64Array>>>;

/**
 * Samples of series[i]: values[starts[i] .. starts[i + 1]), oldest first, and times likewise from timeStarts[i] on. Series
 * that were read at the same moments share their times. `beside`: of roll-ups what was asked for, as `values`.
 */
export interface SeriesRead {
  readonly starts: Int32Array;
  readonly timeStarts: Int32Array;
  readonly times: Float64Array;
  readonly values: Float64Array;
  readonly beside: BesideColumns;
}

const FIRST_ROOM = 16_384;
/** Growing never takes more than so many times what is there. */
const MOST_GROWTH = 64;

/** Numbers that are written one stretch after the other. */
class GrowingNumbers {
  list = new Float64Array(FIRST_ROOM);
  length = 0;
  /** Room for `count` more, which count as written; `share`: of the whole that is read, 0 .. 1. */
  room(count: number, share: number): Float64Array {
    const needed = this.length + count;
    if (needed > this.list.length) {
      const expected = share > 0 ? (needed / share) * 1.02 : 0;
      const larger = Math.min(Math.max(2 * needed, expected), MOST_GROWTH * needed);
      const before = this.list;
      this.list = new Float64Array(Math.ceil(larger));
      this.list.set(before.subarray(0, this.length));
    }
    this.length = needed;
    return this.list.subarray(needed - count, needed);
  }
  get written(): Float64Array {
    return this.list.subarray(0, this.length);
  }
}

/** Numbers of one row that are needed only while it is decoded. */
class Scratch {
  private list = new Float64Array(1024);
  of(count: number): Float64Array {
    if (this.list.length < count) this.list = new Float64Array(2 * count);
    return this.list.subarray(0, count);
  }
}

function same(a: Uint8Array | undefined, b: Uint8Array): boolean {
  if (a?.length !== b.length) return false;
  for (let i = 0; i < b.length; i++) if (a[i] !== b[i]) return false;
  return true;
}

function together(one: Uint8Array, other: Uint8Array): Uint8Array {
  const both = new Uint8Array(one.length + other.length);
  both.set(one);
  both.set(other, one.length);
  return both;
}

/** What is needed to read a row as samples; null where it follows from the others. */
export type PackedRow = { readonly buckets: Uint8Array } & Readonly<Partial<Record<Aggregate, Uint8Array | null>>>;
/** Columns that rows must come with, of counters or of gauges only. */
export const columnsOfRows = (counts: boolean, beside: readonly Beside[]): Aggregate[] =>
  columnsFor([...(counts ? (['increase'] as const) : []), 'last', 'gap', ...beside]);

/** Decodes chunks or rows of roll-ups of one series after the other, each right where it belongs. */
export class SeriesReader {
  private readonly times = new GrowingNumbers();
  private readonly values = new GrowingNumbers();
  private readonly starts: Int32Array;
  private readonly timeStarts: Int32Array;
  private series = 0;
  /** Of the series before, and of this one: the times of each part as they are written. */
  private partsBefore: readonly Uint8Array[] = [];
  private parts: Uint8Array[] = [];
  /** Its parts so far have the times of the series before. */
  private sharing = true;
  private total = 0;
  private last = Number.NaN;
  private readonly scratch = new Map<Aggregate, Scratch>();
  private readonly beside: ReadonlyMap<Beside, GrowingNumbers>;

  constructor(
    private readonly count: number,
    beside: readonly Beside[] = [],
  ) {
    this.beside = new Map(beside.map((name) => [name, new GrowingNumbers()]));
    this.starts = new Int32Array(count + 1);
    this.timeStarts = new Int32Array(count);
  }
  /** The series that comes now: 0 .. count - 1; ascending. What lies between has no samples. */
  begin(series: number): void {
    while (this.series < series) this.end();
  }
  private end(): void {
    this.series++;
    this.starts[this.series] = this.values.length;
    if (this.parts.length > 0) this.partsBefore = this.parts;
    this.parts = [];
    this.sharing = true;
    this.total = 0;
    this.last = Number.NaN;
    if (this.series < this.count) this.timeStarts[this.series] = this.timeStarts[this.series - 1]!;
  }
  private get share(): number {
    return this.series / this.count;
  }
  /** Times of a part: as in the series before, or decoded behind what is there. */
  private takeTimes(written: Uint8Array, count: number, decode: (into: Float64Array) => void): void {
    const part = this.parts.length;
    if (this.sharing && !same(this.partsBefore[part], written)) {
      this.sharing = false;
      const own = this.values.length - count - this.starts[this.series]!;
      const before = this.timeStarts[this.series]!;
      this.timeStarts[this.series] = this.times.length;
      if (own > 0) {
        const into = this.times.room(own, this.share);
        into.set(this.times.list.subarray(before, before + own));
      }
    }
    this.parts.push(this.sharing ? this.partsBefore[part]! : written.slice());
    if (!this.sharing) decode(this.times.room(count, this.share));
  }

  /** `bytes` may change after it. */
  chunk(bytes: Uint8Array): void {
    const chunk: Chunk = chunkBegun(bytes);
    const { input, way, count } = chunk;
    if (count === 0) return;
    const values = this.values.room(count, this.share);
    const from = input.at;
    skipTimes(input, count);
    const until = input.at;
    readValues(way, input, values);
    const written = bytes.subarray(from, until);
    this.takeTimes(written, count, (into) => readTimes(new ByteReader(written), into));
  }

  /** A row of roll-ups as samples (see `samplesOfRollUp`), with the columns that `columnsOfRows` says. `bytes` may change after it. */
  row(row: PackedRow, length: DurationMs, cumulative: boolean): void {
    const { input, count } = bucketsBegun(row.buckets);
    if (count === 0) return;
    const known = new Map<Aggregate, Float64Array>();
    const of = (name: Aggregate): Float64Array => {
      let column = known.get(name);
      if (column === undefined) {
        column = this.decoded(name, row[name] ?? null, count, of);
        known.set(name, column);
      }
      return column;
    };
    const values = this.values.room(count, this.share);
    const steadyFrom = firstOfSteady(row.increase ?? null);
    if (cumulative && steadyFrom !== null) this.goOn(steadyFrom, of('last'), values);
    else if (cumulative) this.addUp(of('first'), of('last'), of('increase'), values);
    else values.set(of('last'));
    for (const [name, list] of this.beside) list.room(count, this.share).set(of(name));
    const gaps = row.gap ?? null;
    this.takeTimes(gaps === null ? row.buckets : together(row.buckets, gaps), count, (into) => {
      readTimes(input, into);
      if (gaps === null) for (let i = 0; i < count; i++) into[i]! += length - UNKNOWN_GAP;
      else {
        const own = of('gap');
        for (let i = 0; i < count; i++) into[i]! += length - own[i]!;
      }
    });
  }
  /** The same where nothing begins anew. */
  private goOn(first: number, lasts: Float64Array, values: Float64Array): void {
    const before = Number.isNaN(this.last) ? first : this.total + grown(this.last, first);
    const more = before - first;
    if (more === 0) values.set(lasts);
    else for (let i = 0; i < values.length; i++) values[i] = lasts[i]! + more;
    this.last = lasts[lasts.length - 1]!;
    this.total = this.last + more;
  }
  private decoded(
    name: Aggregate,
    bytes: Uint8Array | null,
    count: number,
    of: (name: Aggregate) => Float64Array,
  ): Float64Array {
    if (bytes === null && (name === 'last' || name === 'min')) return of('first');
    if (bytes === null && name === 'max') return of('last');
    let own = this.scratch.get(name);
    if (!own) {
      own = new Scratch();
      this.scratch.set(name, own);
    }
    const column = own.of(count);
    if (bytes !== null && !(name === 'increase' && firstOfSteady(bytes) !== null)) decodeColumnInto(bytes, column);
    else for (let i = 0; i < count; i++) column[i] = implied(name, of, i) ?? Number.NaN;
    return column;
  }
  /** The same of buckets that are not packed. */
  rolled({ starts, columns }: RollUp, length: DurationMs, cumulative: boolean): void {
    const values = this.values.room(starts.length, this.share);
    if (cumulative) this.addUp(columns.first, columns.last, columns.increase, values);
    else values.set(columns.last);
    for (const [name, list] of this.beside) list.room(starts.length, this.share).set(columns[name]);
    const bytesOf = (list: Float64Array) => new Uint8Array(list.buffer, list.byteOffset, list.byteLength);
    this.takeTimes(together(bytesOf(starts), bytesOf(columns.gap)), starts.length, (into) => {
      for (let i = 0; i < starts.length; i++) into[i] = starts[i]! + length - columns.gap[i]!;
    });
  }
  /** What a counter had grown to since it was at 0 before its first bucket. */
  private addUp(firsts: Float64Array, lasts: Float64Array, increases: Float64Array, values: Float64Array): void {
    let { total, last } = this;
    for (let i = 0; i < values.length; i++) {
      total += Number.isNaN(last) ? firsts[i]! : grown(last, firsts[i]!);
      total += increases[i]!;
      last = lasts[i]!;
      values[i] = total;
    }
    this.total = total;
    this.last = last;
  }

  finish(): SeriesRead {
    while (this.series < this.count) this.end();
    const { starts, timeStarts } = this;
    return {
      starts,
      timeStarts,
      times: this.times.written,
      values: this.values.written,
      beside: Object.fromEntries([...this.beside].map(([name, { written }]) => [name, written])),
    };
  }
}
