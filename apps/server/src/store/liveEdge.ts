import type { EpochMs, SeriesId } from '@zetopsis/core/units';

/** The newest samples of one series, in order of time; grows at its end, is cut at its start. */
export interface EdgeSeries {
  readonly times: number[];
  readonly values: number[];
}

/** Newest samples of every active series, in memory (design/storage.md, step 4). */
export class LiveEdge {
  private readonly series = new Map<SeriesId, EdgeSeries>();

  get(id: SeriesId): EdgeSeries | undefined {
    return this.series.get(id);
  }

  /** A late sample is put in its place; the same time twice keeps the first. */
  add(id: SeriesId, at: EpochMs, value: number): void {
    let edge = this.series.get(id);
    if (!edge) {
      edge = { times: [], values: [] };
      this.series.set(id, edge);
    }
    const { times, values } = edge;
    let place = times.length;
    while (place > 0 && times[place - 1]! > at) place--;
    if (times[place - 1] === at) return;
    if (place === times.length) {
      times.push(at);
      values.push(value);
    } else {
      times.splice(place, 0, at);
      values.splice(place, 0, value);
    }
  }

  /** Forgets what is stored in chunks and older than `before`. */
  cut(ids: Iterable<SeriesId>, before: EpochMs): void {
    for (const id of ids) {
      const edge = this.series.get(id);
      if (!edge) continue;
      let count = 0;
      while (count < edge.times.length && edge.times[count]! < before) count++;
      edge.times.splice(0, count);
      edge.values.splice(0, count);
      if (edge.times.length === 0) this.series.delete(id);
    }
  }
}
