import type { DurationMs, EpochMs } from '../../units/index.ts';
import { type Node, type Read, walk } from '../node.ts';
import { type Counted, counted } from './growth.ts';
import {
  emptyLine,
  type HistogramIn,
  isThere,
  KEPT_MARKS,
  type Labels,
  type Line,
  MISSED,
  NONE,
  type SeriesIn,
} from './lines.ts';
import { type Point, type Sampled, sampled, valueAt } from './overTime.ts';

/** What was read, as lines; what is worked out of a series is worked out once. */
export class Readings {
  private readonly sampledOf = new Map<SeriesIn, Sampled>();
  private readonly countedOf = new Map<SeriesIn, Counted>();
  private readonly asked: {
    readonly end: EpochMs;
    readonly series: (read: Read) => readonly SeriesIn[];
    readonly histograms: (read: Read) => readonly HistogramIn[];
    readonly worked: (values: number) => void;
  };

  constructor(asked: Readings['asked']) {
    this.asked = asked;
  }

  samplesOf(series: SeriesIn): Sampled {
    let own = this.sampledOf.get(series);
    if (!own) {
      own = sampled(series);
      this.sampledOf.set(series, own);
    }
    return own;
  }
  countsOf(series: SeriesIn, resets?: ReadonlySet<number>): Counted {
    let own = this.countedOf.get(series);
    if (!own) {
      own = counted(series, resets);
      this.countedOf.set(series, own);
    }
    return own;
  }
  /** One line a series, a point at each moment; nothing is told of what comes after the end. */
  each<S extends { readonly labels: Labels }>(
    all: readonly S[],
    times: Float64Array,
    tell: (series: S, at: EpochMs) => Point | 'missed' | null,
  ): Line[] {
    return all.map((series) => {
      const line = emptyLine(series.labels, times.length);
      for (let i = 0; i < times.length; i++) {
        const point = times[i]! > this.asked.end ? null : tell(series, times[i]!);
        if (point === null) continue;
        if (point === 'missed') line.marks[i] = NONE | MISSED;
        else [line.values[i], line.marks[i]] = [point.value, point.marks];
      }
      this.asked.worked(times.length);
      return line;
    });
  }
  seriesAt(read: Read, times: Float64Array): Line[] {
    return this.each(this.asked.series(read), times, (series, at) => valueAt(this.samplesOf(series), at));
  }
  histogramsAt(read: Read, times: Float64Array): Line[] {
    return this.asked
      .histograms(read)
      .map((own) => this.bucketLine(own, times, (part, at) => valueAt(this.samplesOf(part), at)));
  }
  bucketLine(
    { labels, bounds, parts, exponential }: HistogramIn,
    times: Float64Array,
    tell: (part: SeriesIn, at: EpochMs) => Point | 'missed' | null,
  ): Line {
    const lines = this.each(parts, times, tell);
    const out = emptyLine(labels, times.length);
    for (let i = 0; i < times.length; i++) {
      const there = lines.length > 0 && lines.every(({ marks }) => isThere(marks, i));
      let marks = there ? 0 : NONE;
      for (const line of lines) marks |= line.marks[i]! & (there ? KEPT_MARKS : MISSED);
      out.marks[i] = marks;
    }
    return { ...out, buckets: { bounds, counts: lines.map(({ values }) => values), exponential } };
  }
  /** Of gauges that are read from roll-ups. */
  bucketOf(node: Node): DurationMs | null {
    if (node.is !== 'read' || node.kind !== 'gauge') return null;
    return this.asked.series(node.read)[0]?.rolled?.bucket ?? null;
  }
  /** How far apart samples are of everything that a node comes from. */
  intervalOf(node: Node): DurationMs {
    let most = 1000;
    walk(node, (one) => {
      if (one.is !== 'read') return;
      const all = one.kind === 'histogram' ? this.asked.histograms(one.read) : this.asked.series(one.read);
      for (const { interval } of all) most = Math.max(most, interval);
    });
    return most;
  }
}
