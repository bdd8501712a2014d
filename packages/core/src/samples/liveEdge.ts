import type { EpochMs, SeriesId } from '../units/index.ts';
import type { Samples } from './chunk.ts';
import { EdgeBuffer } from './edgeBuffer.ts';
import { END_MARKER } from './endMarker.ts';
import type { Frame } from './frame.ts';

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
    this.order ??= Int32Array.from(ids.keys()).sort((a, b) => ids[a]! - ids[b]!);
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

export interface EdgeReading {
  readonly at: EpochMs;
  readonly layout: Layout;
  readonly frame: Frame;
}
const EMPTY: Samples = { times: [], values: [] };

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
  samples(id: SeriesId): Samples {
    const { readings } = this;
    const times = new Float64Array(readings.length);
    const values = new Float64Array(readings.length);
    let count = 0;
    let layout: Layout | null = null;
    let place = -1;
    for (const reading of readings) {
      if (reading.layout !== layout) {
        ({ layout } = reading);
        place = layout.placeOf(id);
      }
      const { frame } = reading;
      if (place >= 0 && !frame.times) values[count] = frame.values[place]!;
      else if (frame.ended.length > 0 && frame.ended.includes(id)) values[count] = END_MARKER;
      else continue;
      times[count++] = reading.at;
    }
    const own = { times: times.subarray(0, count), values: values.subarray(0, count) };
    const timed = this.timed.get(id);
    if (!timed) return own;
    if (count === 0) return timed.series;
    const both = new EdgeBuffer();
    for (const part of [timed.series, own])
      for (let i = 0; i < part.times.length; i++) both.add(part.times[i]!, part.values[i]!);
    return both.series;
  }
  cut(before: EpochMs): void {
    let first = 0;
    while (first < this.readings.length && this.readings[first]!.at < before) first++;
    // the last of them stays: what a counter grew by since then is not lost
    if (first > 1) this.readings = this.readings.slice(first - 1);
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
  newest(endpoint: number): EdgeReading | undefined {
    return this.endpoints.get(endpoint)?.readings.at(-1);
  }
  readingsAfter(endpoint: number, after: EpochMs): readonly EdgeReading[] {
    return this.endpoints.get(endpoint)?.readings.filter(({ at }) => at > after) ?? [];
  }
  samples(endpoint: number, id: SeriesId): Samples {
    return this.endpoints.get(endpoint)?.samples(id) ?? EMPTY;
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
