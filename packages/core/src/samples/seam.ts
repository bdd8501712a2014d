import type { DurationMs, EpochMs } from '../units/index.ts';
import type { Samples } from './chunk.ts';
import { mergeSamples } from './merge.ts';
import { grown, rollUp, samplesOfRollUp } from './rollUp.ts';

/** The part of it before a moment. */
function until({ times, values }: Samples, border: EpochMs): Samples {
  let end = times.length;
  while (end > 0 && times[end - 1]! >= border) end--;
  if (end === times.length) return { times, values };
  return { times: times.slice(0, end), values: values.slice(0, end) };
}
function appended(list: Samples['times'], more: Samples['times']): Float64Array {
  const both = new Float64Array(list.length + more.length);
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

export interface RolledSeam {
  /** Roll-ups as samples: one a bucket, at its end. */
  readonly stored: Samples;
  readonly edge: Samples;
  /** From here on the edge counts. */
  readonly border: EpochMs;
  readonly bucket: DurationMs;
  readonly cumulative: boolean;
}
/** What is not packed yet, rolled up as it will be, behind what is. */
export function rolledOn({ stored, edge, border, bucket, cumulative }: RolledSeam): Samples {
  let first = 0;
  while (first < edge.times.length && edge.times[first]! < border) first++;
  if (first === edge.times.length) return stored;
  const own = { times: edge.times.slice(first), values: edge.values.slice(first) };
  const rolled = rollUp(own, bucket);
  if (rolled.starts.length === 0) return stored;
  // an hour may be packed in part, and packing may have gone on meanwhile: the edge's buckets count, and go on from there
  const known = until(stored, own.times[0]! + bucket - 1);
  const kept = until(stored, rolled.starts[0]!);
  const fresh = samplesOfRollUp(rolled, bucket, cumulative);
  let base = 0;
  if (cumulative && known.values.length > 0) {
    base = known.values[known.values.length - 1]!;
    const step = first > 0 ? grown(edge.values[first - 1]!, own.values[0]!) : 0;
    if (!Number.isNaN(step)) base += step;
  }
  // the newest bucket is not over yet: it is as old as its last sample
  const newest = own.times[own.times.length - 1]!;
  return {
    times: appended(
      kept.times,
      Float64Array.from(fresh.times, (time) => Math.min(time, newest)),
    ),
    values: appended(
      kept.values,
      Float64Array.from(fresh.values, (value) => value + base),
    ),
  };
}
