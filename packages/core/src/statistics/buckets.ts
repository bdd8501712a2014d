/** Counts of observations up to each bound, at one moment. */
export interface BucketCounts {
  /** Ascending; the last may be infinite. */
  readonly bounds: readonly number[];
  /** Up to bounds[bound]. */
  readonly counts: (bound: number) => number;
  /** Between two bounds of an exponential histogram the answer is logarithmic. */
  readonly exponential: boolean;
}
/** `atLeast`: it lies beyond the highest finite bound, and is that or more. */
export interface ToldOfBuckets {
  readonly value: number;
  readonly atLeast: boolean;
}

/** Two readings apart counts may seem to fall: what is below a bound is below the next. */
function rising({ bounds, counts }: BucketCounts): Float64Array {
  const own = new Float64Array(bounds.length);
  let most = 0;
  for (let i = 0; i < own.length; i++) {
    most = Math.max(most, counts(i));
    own[i] = most;
  }
  return own;
}
/** Null where there is no observation, or no finite bound. */
function observed(own: BucketCounts): Float64Array | null {
  if (own.bounds.length === 0 || !Number.isFinite(own.bounds[0]!)) return null;
  const counts = rising(own);
  return counts.at(-1)! > 0 ? counts : null;
}
/** Where the lowest bucket begins: at 0 when its bound is above 0; else its bound is all that is known of it. */
const beginOf = ({ bounds }: BucketCounts, bucket: number): number =>
  bucket > 0 ? bounds[bucket - 1]! : Math.min(bounds[0]!, 0);
const between = (own: BucketCounts, bucket: number, share: number): number => {
  const [low, high] = [beginOf(own, bucket), own.bounds[bucket]!];
  return own.exponential && low > 0 ? low * (high / low) ** share : low + (high - low) * share;
};
const lastFinite = ({ bounds }: BucketCounts): number =>
  Number.isFinite(bounds.at(-1)!) ? bounds.length - 1 : bounds.length - 2;

/** What `percentile` of 100 observations stay below; in the open bucket at least its lower bound. Null without observations. */
export function percentileOfBuckets(own: BucketCounts, percentile: number): ToldOfBuckets | null {
  const counts = observed(own);
  if (counts === null) return null;
  const rank = (percentile / 100) * counts.at(-1)!;
  // the lowest that has observations, when nothing is asked for below it
  let bucket = 0;
  while (bucket < counts.length - 1 && (counts[bucket]! < rank || counts[bucket] === 0)) bucket++;
  const last = lastFinite(own);
  if (bucket > last) return { value: own.bounds[last]!, atLeast: true };
  const before = bucket === 0 ? 0 : counts[bucket - 1]!;
  const inside = counts[bucket]! - before;
  return { value: between(own, bucket, inside === 0 ? 0 : Math.max(0, rank - before) / inside), atLeast: false };
}
/** Share of the observations that stayed below; beyond the highest finite bound it is at least that bound's. */
export function shareBelow(own: BucketCounts, bound: number): ToldOfBuckets | null {
  const counts = observed(own);
  if (counts === null) return null;
  const total = counts.at(-1)!;
  const last = lastFinite(own);
  if (bound >= own.bounds[last]!) {
    const open = last < own.bounds.length - 1 && bound > own.bounds[last]!;
    return { value: counts[last]! / total, atLeast: open };
  }
  let bucket = 0;
  while (own.bounds[bucket]! < bound) bucket++;
  const before = bucket === 0 ? 0 : counts[bucket - 1]!;
  const [low, high] = [beginOf(own, bucket), own.bounds[bucket]!];
  const share =
    bound <= low || high <= low
      ? 0
      : own.exponential && low > 0
        ? Math.log(bound / low) / Math.log(high / low)
        : (bound - low) / (high - low);
  return { value: (before + (counts[bucket]! - before) * Math.min(1, share)) / total, atLeast: false };
}
