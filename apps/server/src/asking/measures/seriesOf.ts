import type { Labels, SeriesIn } from '@zetopsis/core/measures';
import type { DurationMs, EpochMs } from '@zetopsis/core/units';

/** What was kept of a series, in its vital's unit; `begun`: since when its endpoint is read. */
export function seriesOf({
  labels,
  found: { times, values },
  factor,
  interval,
  from,
  begun,
}: {
  readonly labels: Labels;
  readonly found: { readonly times: ArrayLike<number>; readonly values: ArrayLike<number> };
  readonly factor: number;
  readonly interval: DurationMs;
  readonly from: EpochMs;
  readonly begun: EpochMs | null;
}): SeriesIn {
  const first = times[0]!; // it has some
  // it was not there when its endpoint was read before
  const lacked = begun !== null && first - interval >= Math.max(begun, from + 2 * interval) ? [first - interval] : [];
  // copies, so that another thread may have them
  const scaled = new Float64Array(values);
  // an end marker is a NaN with a tag, which arithmetic would lose
  if (factor !== 1) for (let i = 0; i < scaled.length; i++) if (!Number.isNaN(scaled[i]!)) scaled[i]! *= factor;
  return { labels, interval, times: new Float64Array(times), values: scaled, lacked };
}
