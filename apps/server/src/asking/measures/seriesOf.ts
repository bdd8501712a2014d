import type { Labels, SeriesIn } from '@zetopsis/core/measures';
import { BESIDE, type Beside, type BesideColumns, type RolledSamples } from '@zetopsis/core/samples';
import { type DurationMs, type EpochMs, HOUR, type SeriesId } from '@zetopsis/core/units';
import type { SamplesService } from '../../keeping/store/samples.service.ts';
import type { ReadingOf } from '../../keeping/store/windows.ts';

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

/** Samples before a window that tell how far apart they lie. */
const FEW = 3;
/** As far back as two spacings of what is read every hour, and as it holds. */
const FAR_BACK = 5 * HOUR;
/**
 * What is kept of series. Those of which there is little before `begin` may lie further apart than their endpoint's readings,
 * as what was brought in does: of them more of it is read, unless what there is shows that they do not.
 */
export async function samplesBefore(
  samples: Pick<SamplesService, 'read'>,
  window: ReadingOf,
  { begin, everyOf }: { readonly begin: EpochMs; readonly everyOf: (id: SeriesId) => DurationMs },
): Promise<ReadonlyMap<SeriesId, RolledSamples>> {
  const read = await samples.read(window);
  const isSparse = (id: SeriesId): boolean => {
    const times = read.get(id)?.times ?? [];
    if (times.length >= FEW && times[FEW - 1]! <= begin) return false;
    const every = everyOf(id);
    return times.length < FEW || spacingOf(times, every) !== every;
  };
  const sparse = window.ids.filter(isSparse);
  if (sparse.length === 0) return read;
  const more = await samples.read({ ...window, ids: sparse, from: begin - FAR_BACK });
  return new Map([...read, ...more]);
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
