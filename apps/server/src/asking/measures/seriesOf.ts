import type { Labels, SeriesIn } from '@zetopsis/core/measures';
import { BESIDE, type Beside, type BesideColumns, type RolledSamples } from '@zetopsis/core/samples';
import type { DurationMs, EpochMs } from '@zetopsis/core/units';

/** Gaps that are looked at, evenly over the series. */
const LOOKED_AT = 51;
/** Apart from this factor on, what lies between its samples is its spacing, not lateness. */
const CLEARLY = 2;
/** How far apart its samples lie mostly, where that is clearly more than its endpoint's interval: a past that was brought in. */
export function spacingOf(times: ArrayLike<number>, interval: DurationMs): DurationMs {
  const count = Math.min(LOOKED_AT, times.length - 1);
  if (count < 2) return interval;
  const gaps = Float64Array.from({ length: count }, (_, n) => {
    const i = 1 + Math.floor((n * (times.length - 1)) / count);
    return times[i]! - times[i - 1]!;
  }).sort();
  const middle = gaps[count >>> 1]!;
  return middle >= CLEARLY * interval ? middle : interval;
}

/** What was kept of a series, in its vital's unit; `begun`: since when its endpoint is read. */
export function seriesOf({
  labels,
  found: { times, values, beside },
  factor,
  interval: own,
  bucket,
  from,
  begun,
}: {
  readonly labels: Labels;
  readonly found: RolledSamples;
  readonly factor: number;
  readonly interval: DurationMs;
  /** Of the roll-ups that it was read from; 0: samples. */
  readonly bucket: DurationMs;
  readonly from: EpochMs;
  readonly begun: EpochMs | null;
}): SeriesIn {
  const interval = spacingOf(times, Math.max(own, bucket));
  const first = times[0]!; // it has some
  // it was not there when its endpoint was read before
  const lacked = begun !== null && first - interval >= Math.max(begun, from + 2 * interval) ? [first - interval] : [];
  // copies, so that another thread may have them
  const series = { labels, interval, times: new Float64Array(times), values: scaled(values, factor), lacked };
  if (bucket === 0) return series;
  return { ...series, rolled: { bucket, interval: own, beside: besideScaled(beside ?? {}, factor) } };
}
function scaled(values: ArrayLike<number>, factor: number): Float64Array {
  const list = new Float64Array(values);
  // an end marker is a NaN with a tag, which arithmetic would lose
  if (factor !== 1) for (let i = 0; i < list.length; i++) if (!Number.isNaN(list[i]!)) list[i]! *= factor;
  return list;
}
const FACTORS: Readonly<Record<Beside, (factor: number) => number>> = {
  count: () => 1,
  nans: () => 1,
  sum: (factor) => factor,
  squares: (factor) => factor * factor,
  min: (factor) => factor,
  max: (factor) => factor,
};
const besideScaled = (beside: BesideColumns, factor: number): BesideColumns =>
  Object.fromEntries(
    BESIDE.flatMap((name) => {
      const list = beside[name];
      return list === undefined ? [] : [[name, scaled(list, FACTORS[name](factor))]];
    }),
  );
