export { type BucketCounts, percentileOfBuckets, shareBelow, type ToldOfBuckets } from './buckets.ts';

/** Linear between ranks; NaN entries do not count. Null when none is left. */
export function percentile(values: ArrayLike<number>, share: number): number | null {
  const known = new Float64Array(values.length);
  let count = 0;
  for (let i = 0; i < values.length; i++) if (!Number.isNaN(values[i]!)) known[count++] = values[i]!;
  if (count === 0) return null;
  // typed lists sort by value, several times as fast
  const sorted = known.subarray(0, count).sort();
  const rank = share * (sorted.length - 1);
  const low = Math.floor(rank);
  const high = Math.ceil(rank);
  const [below, above] = [sorted[low]!, sorted[high]!];
  // of two that are infinite alike the difference is nothing
  return below === above ? below : below + (above - below) * (rank - low);
}

/** Lines are not fitted through fewer points than this: everybody who tells of a trend has the same least. */
export const FEWEST_POINTS = 12;

/**
 * Slope of a robust straight line (the median of slopes: Theil 1950, Sen 1968), per step; NaN entries do not count. `most`: pairs
 * are taken of at most so many points, newest first, since their number grows with the square. Null with too few points.
 */
export function medianSlope(values: ArrayLike<number>, most: number): number | null {
  const at: number[] = [];
  for (let i = 0; i < values.length; i++) if (!Number.isNaN(values[i]!)) at.push(i);
  if (at.length < FEWEST_POINTS) return null;
  const stride = Math.ceil(at.length / most);
  const paired = at.filter((_, i) => (at.length - 1 - i) % stride === 0);
  const slopes = new Float64Array((paired.length * (paired.length - 1)) / 2);
  let n = 0;
  for (let a = 1; a < paired.length; a++)
    for (let b = 0; b < a; b++) {
      const [later, earlier] = [paired[a]!, paired[b]!];
      slopes[n++] = (values[later]! - values[earlier]!) / (later - earlier);
    }
  return percentile(slopes, 0.5);
}
