import type { DurationMs } from '../units/index.ts';
import { ByteReader } from './byteCursor.ts';
import { type Chunk, chunkBegun } from './chunk.ts';
import { bucketsBegun, grown, type PackedRow, type RollUp } from './rollUp.ts';
import { readTimes, skipTimes } from './times.ts';
import { decodeColumnInto, readValues } from './values.ts';

/**
 * Samples of series[i]: values[starts[i] .. starts[i + 1]), oldest first, and times likewise from timeStarts[i] on. Series
 * that were read at the same moments share their times.
 */
export interface SeriesRead {
  readonly starts: Int32Array;
  readonly timeStarts: Int32Array;
  readonly times: Float64Array;
  readonly values: Float64Array;
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
  private readonly first = new Scratch();
  private readonly lasts = new Scratch();
  private readonly increases = new Scratch();

  constructor(private readonly count: number) {
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

  /** A row of roll-ups as samples at the ends of its buckets (see `samplesOfRollUp`). `bytes` may change after it. */
  row({ buckets, first, last, increase }: PackedRow, length: DurationMs, cumulative: boolean): void {
    const { input, count } = bucketsBegun(buckets);
    if (count === 0) return;
    const values = this.values.room(count, this.share);
    if (cumulative) {
      const firsts = this.first.of(count);
      decodeColumnInto(first, firsts);
      let lasts = firsts;
      if (last) {
        lasts = this.lasts.of(count);
        decodeColumnInto(last, lasts);
      }
      const increases = this.increases.of(count);
      if (increase) decodeColumnInto(increase, increases);
      else for (let i = 0; i < count; i++) increases[i] = lasts[i]! - firsts[i]!;
      this.addUp(firsts, lasts, increases, values);
    } else decodeColumnInto(last ?? first, values);
    this.takeTimes(buckets, count, (into) => {
      readTimes(input, into);
      for (let i = 0; i < count; i++) into[i]! += length - 1;
    });
  }
  /** The same of buckets that are not packed. */
  rolled({ starts, columns }: RollUp, length: DurationMs, cumulative: boolean): void {
    const values = this.values.room(starts.length, this.share);
    if (cumulative) this.addUp(columns.first, columns.last, columns.increase, values);
    else values.set(columns.last);
    const written = new Uint8Array(starts.buffer, starts.byteOffset, starts.byteLength);
    this.takeTimes(written, starts.length, (into) => {
      for (let i = 0; i < starts.length; i++) into[i] = starts[i]! + length - 1;
    });
  }
  /** What a counter had grown to since its first bucket. */
  private addUp(firsts: Float64Array, lasts: Float64Array, increases: Float64Array, values: Float64Array): void {
    let { total, last } = this;
    for (let i = 0; i < values.length; i++) {
      if (!Number.isNaN(last)) total += grown(last, firsts[i]!);
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
    return { starts, timeStarts, times: this.times.written, values: this.values.written };
  }
}
