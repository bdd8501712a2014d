import type { DurationMs, EpochMs } from '../units/index.ts';
import type { Samples } from './chunk.ts';
import { mergeSamples } from './merge.ts';
import { grown, rollUp, samplesOfRollUp } from './rollUp.ts';
import { roomFor } from './room.ts';
import { BESIDE, type Beside, type BesideColumns } from './seriesReader.ts';

/** The part of it before a moment. */
function until({ times, values }: Samples, border: EpochMs): Samples {
  let end = times.length;
  while (end > 0 && times[end - 1]! >= border) end--;
  if (end === times.length) return { times, values };
  return { times: times.slice(0, end), values: values.slice(0, end) };
}
function appended(list: Samples['times'], more: Samples['times']): Float64Array {
  const both = roomFor(list.length + more.length);
  both.set(list);
  both.set(more, list.length);
  return both;
}

/** Chunks count up to the border; the edge holds what is after it, and what came late and is not packed yet. */
export function joinedAt(packed: Samples, edge: Samples, border: EpochMs): Samples {
  const stored = until(packed, border);
  if (stored.times.length === 0) return edge;
  if (edge.times.length === 0) return stored;
  // most often one goes on where the other ends
  if (stored.times[stored.times.length - 1]! < edge.times[0]!)
    return { times: appended(stored.times, edge.times), values: appended(stored.values, edge.values) };
  return mergeSamples(stored, edge).samples;
}

/** Samples that roll-ups are read as, and what else was asked for of their buckets: one value a sample. */
export interface RolledSamples extends Samples {
  readonly beside?: BesideColumns;
}
export interface RolledSeam {
  /** One sample a bucket. */
  readonly stored: RolledSamples;
  readonly edge: Samples;
  /** From here on the edge counts. */
  readonly border: EpochMs;
  readonly bucket: DurationMs;
  readonly cumulative: boolean;
}
/** What is not packed yet, rolled up as it will be, behind what is. */
export function rolledOn({ stored, edge, border, bucket, cumulative }: RolledSeam): RolledSamples {
  let first = 0;
  while (first < edge.times.length && edge.times[first]! < border) first++;
  if (first === edge.times.length) return stored;
  const own = { times: edge.times.slice(first), values: edge.values.slice(first) };
  const rolled = rollUp(own, bucket);
  if (rolled.starts.length === 0) return stored;
  // an hour may be packed in part, and packing may have gone on meanwhile: the edge's buckets count, and go on from there
  const [begins, ends] = [rolled.starts[0]!, rolled.starts[0]! + bucket];
  const before = placeAfter(stored.times, begins);
  // what was brought in lies before what is read, however far packing is
  const known = placeAfter(stored.times, Math.min(ends, own.times[0]! - 1));
  const fresh = samplesOfRollUp(rolled, bucket, cumulative);
  const base = cumulative && known > 0 ? baseOf(stored.values[known - 1]!, edge, first) : 0;
  const kept = (list: Samples['times']) => list.slice(0, before);
  return {
    times: appended(kept(stored.times), fresh.times),
    values: appended(
      kept(stored.values),
      Float64Array.from(fresh.values, (value) => value + base),
    ),
    ...(stored.beside === undefined
      ? {}
      : {
          beside: Object.fromEntries(
            BESIDE.flatMap((name) => {
              const list = stored.beside?.[name];
              if (list === undefined) return [];
              const own = Float64Array.from(rolled.columns[name]);
              // of the bucket that both have a part of
              if (known > before) own[0] = TOGETHER[name](list[before]!, own[0]!);
              return [[name, appended(kept(list), own)]];
            }),
          ),
        }),
  };
}
/** What a counter had grown to beside what it shows, when what is not packed begins: `total` is what it had grown to before. */
function baseOf(total: number, edge: Samples, first: number): number {
  let at = first;
  while (at < edge.values.length - 1 && Number.isNaN(edge.values[at]!)) at++;
  const value = edge.values[at]!;
  if (Number.isNaN(value)) return 0;
  let before = first - 1;
  while (before > 0 && Number.isNaN(edge.values[before]!)) before--;
  const step = before < 0 ? Number.NaN : grown(edge.values[before]!, value);
  if (!Number.isNaN(step)) return total + step - value;
  // what it showed last is not known: unless it has begun anew, it goes on from what it had grown to
  return value >= total ? 0 : total - value;
}
const TOGETHER: Readonly<Record<Beside, (a: number, b: number) => number>> = {
  count: (a, b) => a + b,
  sum: (a, b) => a + b,
  squares: (a, b) => a + b,
  nans: (a, b) => a + b,
  min: Math.min,
  max: Math.max,
};
/** How many samples lie up to a moment. */
function placeAfter(times: Samples['times'], at: EpochMs): number {
  let end = times.length;
  while (end > 0 && times[end - 1]! > at) end--;
  return end;
}
