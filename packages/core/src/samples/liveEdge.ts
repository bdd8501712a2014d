import type { EpochMs, SeriesId } from '../units/index.ts';
import type { Samples } from './chunk.ts';
import { EdgeBuffer } from './edgeBuffer.ts';
import { END_MARKER } from './endMarker.ts';
import type { Frame } from './frame.ts';
import { roomFor } from './room.ts';

/** The series of a reading in order; shared by all readings of the same shape. */
export class Layout {
  readonly ids: Int32Array;
  private order: Int32Array | null = null;
  constructor(ids: Int32Array) {
    this.ids = ids;
  }
  /** Place of a series among the values; -1 when it is not one of them. */
  placeOf(id: SeriesId): number {
    const { ids } = this;
    this.order ??= orderOf(ids);
    let low = 0;
    let high = this.order.length - 1;
    while (low <= high) {
      const middle = (low + high) >>> 1;
      const known = ids[this.order[middle]!]!;
      if (known === id) return this.order[middle]!;
      if (known < id) low = middle + 1;
      else high = middle - 1;
    }
    return -1;
  }
}

const PLACES = 2 ** 21;
/** Places in ascending order of their numbers. As one number each, which sorts ten times as fast as by a comparison. */
function orderOf(ids: Int32Array): Int32Array {
  if (ids.length > PLACES) return Int32Array.from(ids.keys()).sort((a, b) => ids[a]! - ids[b]!);
  const keys = Float64Array.from(ids, (id, place) => id * PLACES + place).sort();
  return Int32Array.from(keys, (key) => key % PLACES);
}

export interface Sample {
  readonly value: number;
  readonly at: EpochMs;
}
export interface EdgeReading {
  readonly at: EpochMs;
  readonly layout: Layout;
  readonly frame: Frame;
}
const EMPTY: Samples = { times: [], values: [] };

/** More than these are looked up in a set: a page may end thousands of series at once, and each of them is asked for. */
const FEW = 8;
const sets = new WeakMap<Frame, ReadonlySet<SeriesId>>();
function hasEnded(frame: Frame, id: SeriesId): boolean {
  if (frame.ended.length <= FEW) return frame.ended.includes(id);
  let set = sets.get(frame);
  if (!set) {
    set = new Set(frame.ended);
    sets.set(frame, set);
  }
  return set.has(id);
}

/** Newest readings of one endpoint, oldest first. Samples that bear times of their own stand apart, by series. */
class EndpointEdge {
  readings: EdgeReading[] = [];
  readonly timed = new Map<SeriesId, EdgeBuffer>();

  add(reading: EdgeReading): boolean {
    const { readings } = this;
    let place = readings.length;
    while (place > 0 && readings[place - 1]!.at > reading.at) place--;
    if (readings[place - 1]?.at === reading.at) return false;
    readings.splice(place, 0, reading);
    this.knownTimes = null;
    const { times, values } = reading.frame;
    if (times)
      reading.layout.ids.forEach((id, i) => {
        let buffer = this.timed.get(id);
        if (!buffer) {
          buffer = new EdgeBuffer();
          this.timed.set(id, buffer);
        }
        buffer.add(times[i]!, values[i]!);
      });
    return true;
  }
  /** Those from `since` on, and the one before. */
  samples(id: SeriesId, since: EpochMs): Samples {
    const { readings } = this;
    const first = this.firstFrom(since);
    const values = roomFor(readings.length - first);
    let count = 0;
    /** Of its own; null while it is in every reading: then it shares theirs. */
    let times: Float64Array | null = null;
    let layout: Layout | null = null;
    let place = -1;
    for (let i = first; i < readings.length; i++) {
      const reading = readings[i]!;
      if (reading.layout !== layout) {
        ({ layout } = reading);
        place = layout.placeOf(id);
      }
      const { frame } = reading;
      if (place >= 0 && !frame.times) values[count] = frame.values[place]!;
      else if (hasEnded(frame, id)) values[count] = END_MARKER;
      else {
        times ??= this.times.slice(first);
        continue;
      }
      if (times) times[count] = reading.at;
      count++;
    }
    const own = { times: times?.subarray(0, count) ?? this.times.subarray(first), values: values.subarray(0, count) };
    const timed = this.timed.get(id);
    if (!timed) return own;
    if (count === 0) return timed.series;
    const both = new EdgeBuffer();
    for (const part of [timed.series, own])
      for (let i = 0; i < part.times.length; i++) both.add(part.times[i]!, part.values[i]!);
    return both.series;
  }
  /** The last of `samples` up to a moment, without making them. */
  newestAt(id: SeriesId, at: EpochMs): Sample | null {
    const timed = this.timed.get(id);
    if (timed) {
      const { times, values } = this.samples(id, Number.NEGATIVE_INFINITY);
      let last = times.length - 1;
      while (last >= 0 && times[last]! > at) last--;
      return last < 0 ? null : { value: values[last]!, at: times[last]! };
    }
    const { readings } = this;
    for (let i = readings.length - 1; i >= 0; i--) {
      const { at: read, layout, frame } = readings[i]!;
      if (read > at) continue;
      const place = layout.placeOf(id);
      if (place >= 0 && !frame.times) return { value: frame.values[place]!, at: read };
      if (hasEnded(frame, id)) return { value: END_MARKER, at: read };
    }
    return null;
  }
  /** The place of the first reading from then on, or of the one before. */
  private firstFrom(since: EpochMs): number {
    const { readings } = this;
    if (since <= (readings[0]?.at ?? since)) return 0;
    return Math.max(
      0,
      readings.findLastIndex(({ at }) => at < since),
    );
  }
  private knownTimes: Float64Array | null = null;
  /** Times of all readings; nobody writes to what was handed out. */
  private get times(): Float64Array {
    this.knownTimes ??= Float64Array.from(this.readings, ({ at }) => at);
    return this.knownTimes;
  }
  cut(before: EpochMs): void {
    let first = 0;
    while (first < this.readings.length && this.readings[first]!.at < before) first++;
    // the last of them stays: what a counter grew by since then is not lost
    if (first > 1) {
      this.readings = this.readings.slice(first - 1);
      this.knownTimes = null;
    }
    for (const [id, buffer] of this.timed) if (buffer.cut(before) === 0) this.timed.delete(id);
  }
}

/** Newest readings of every endpoint, in memory (design/storage.md, step 4): eight bytes a sample. */
export class LiveEdge {
  private readonly endpoints = new Map<number, EndpointEdge>();

  /** False when there is a reading of this moment already: the first counts. */
  add(endpoint: number, reading: EdgeReading): boolean {
    let edge = this.endpoints.get(endpoint);
    if (!edge) {
      edge = new EndpointEdge();
      this.endpoints.set(endpoint, edge);
    }
    return edge.add(reading);
  }
  readingAt(endpoint: number, at: EpochMs): EdgeReading | undefined {
    return this.endpoints.get(endpoint)?.readings.findLast((reading) => reading.at === at);
  }
  /** How many readings of an endpoint are in memory. */
  count(endpoint: number): number {
    return this.endpoints.get(endpoint)?.readings.length ?? 0;
  }
  newest(endpoint: number): EdgeReading | undefined {
    return this.endpoints.get(endpoint)?.readings.at(-1);
  }
  readingsAfter(endpoint: number, after: EpochMs): readonly EdgeReading[] {
    return this.endpoints.get(endpoint)?.readings.filter(({ at }) => at > after) ?? [];
  }
  /** `since`: at least those from then on, and the one before; what bears times of its own is given in full. */
  samples(endpoint: number, id: SeriesId, since: EpochMs = Number.NEGATIVE_INFINITY): Samples {
    return this.endpoints.get(endpoint)?.samples(id, since) ?? EMPTY;
  }
  /** The newest sample up to a moment, as it is: an end, too; null where there is none. */
  newestAt(endpoint: number, id: SeriesId, at: EpochMs): Sample | null {
    return this.endpoints.get(endpoint)?.newestAt(id, at) ?? null;
  }
  /** Forgets readings older than `before`, but for the last of them. */
  cut(endpoint: number, before: EpochMs): void {
    this.endpoints.get(endpoint)?.cut(before);
  }
  clear(): void {
    this.endpoints.clear();
  }
  forget(endpoint: number): void {
    this.endpoints.delete(endpoint);
  }
}
