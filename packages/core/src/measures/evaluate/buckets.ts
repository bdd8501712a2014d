import { AT_LEAST, type Buckets, emptyLine, KEPT_MARKS, type Line } from './lines.ts';

interface Told {
  readonly value: number;
  readonly marks: number;
}
/** Counts up to each bound at one moment. */
interface At {
  readonly bounds: readonly number[];
  readonly counts: (bound: number) => number;
  readonly exponential: boolean;
}
const at = ({ bounds, counts, exponential }: Buckets, i: number): At => ({
  bounds,
  counts: (bound) => counts[bound]![i]!,
  exponential,
});
/** Observations in all; null where there is none, or no finite bound. */
function totalOf({ bounds, counts }: At): number | null {
  if (bounds.length === 0 || !Number.isFinite(bounds[0]!)) return null;
  const total = counts(bounds.length - 1);
  return total > 0 ? total : null;
}
/** Where the lowest bucket begins: at 0 when its bound is above 0; else its bound is all that is known of it. */
const beginOf = ({ bounds }: At, bucket: number): number =>
  bucket > 0 ? bounds[bucket - 1]! : Math.min(bounds[0]!, 0);
const between = (own: At, bucket: number, share: number): number => {
  const [low, high] = [beginOf(own, bucket), own.bounds[bucket]!];
  return own.exponential && low > 0 ? low * (high / low) ** share : low + (high - low) * share;
};
const lastFinite = ({ bounds }: At): number =>
  Number.isFinite(bounds.at(-1)!) ? bounds.length - 1 : bounds.length - 2;

export function percentileOfBuckets(own: At, percentile: number): Told | null {
  const total = totalOf(own);
  if (total === null) return null;
  const rank = (percentile / 100) * total;
  // the lowest that has observations, when nothing is asked for below it
  let bucket = 0;
  while (bucket < own.bounds.length - 1 && (own.counts(bucket) < rank || own.counts(bucket) === 0)) bucket++;
  const last = lastFinite(own);
  if (bucket > last) return { value: own.bounds[last]!, marks: AT_LEAST };
  const before = bucket === 0 ? 0 : own.counts(bucket - 1);
  const inside = own.counts(bucket) - before;
  return { value: between(own, bucket, inside === 0 ? 0 : Math.max(0, rank - before) / inside), marks: 0 };
}
/** Share of the observations that stayed below; beyond the highest finite bound it is at least that bound's. */
export function shareBelow(own: At, bound: number): Told | null {
  const total = totalOf(own);
  if (total === null) return null;
  const last = lastFinite(own);
  if (bound >= own.bounds[last]!) {
    const open = last < own.bounds.length - 1 && bound > own.bounds[last]!;
    return { value: own.counts(last) / total, marks: open ? AT_LEAST : 0 };
  }
  let bucket = 0;
  while (own.bounds[bucket]! < bound) bucket++;
  const before = bucket === 0 ? 0 : own.counts(bucket - 1);
  const [low, high] = [beginOf(own, bucket), own.bounds[bucket]!];
  const share =
    bound <= low || high <= low
      ? 0
      : own.exponential && low > 0
        ? Math.log(bound / low) / Math.log(high / low)
        : (bound - low) / (high - low);
  return { value: (before + (own.counts(bucket) - before) * Math.min(1, share)) / total, marks: 0 };
}
const TOLERATED = 4;
/** Satisfied up to the target, half satisfied up to four times it. */
export function satisfaction(own: At, target: number): Told | null {
  const [good, tolerated] = [shareBelow(own, target), shareBelow(own, TOLERATED * target)];
  if (good === null || tolerated === null) return null;
  return { value: (good.value + tolerated.value) / 2, marks: good.marks | tolerated.marks };
}

/** A line of what is told of each moment's buckets. */
export function ofBuckets(line: Line, tell: (own: At) => Told | null): Line {
  const { buckets } = line;
  const out = emptyLine(line.labels, line.values.length, line.name);
  if (!buckets) return out;
  for (let i = 0; i < out.values.length; i++) {
    if (buckets.counts.some((counts) => Number.isNaN(counts[i]!))) {
      out.marks[i] = line.marks[i]!;
      continue;
    }
    const told = tell(at(buckets, i));
    if (told === null) continue;
    out.values[i] = told.value;
    out.marks[i] = (line.marks[i]! & KEPT_MARKS) | told.marks;
  }
  return out;
}

/** Several histograms as one, at the bounds that all of them have. */
export function combined(lines: readonly Line[], marks: Uint8Array): Buckets | null {
  const own = lines.flatMap(({ buckets }) => buckets ?? []);
  const [first] = own;
  if (!first) return null;
  const bounds = first.bounds.filter((bound) => own.every((one) => one.bounds.includes(bound)));
  const counts = bounds.map((bound) => {
    const sums = new Float64Array(marks.length);
    for (const one of own) {
      const part = one.counts[one.bounds.indexOf(bound)]!;
      // where one of them has none, the others count
      for (let i = 0; i < sums.length; i++) sums[i]! += Number.isNaN(part[i]!) ? 0 : part[i]!;
    }
    return sums;
  });
  for (let i = 0; i < marks.length; i++)
    if (own.every((one) => one.counts.every((part) => Number.isNaN(part[i]!))))
      for (const sums of counts) sums[i] = Number.NaN;
  return { bounds, counts, exponential: own.every((one) => one.exponential) };
}
