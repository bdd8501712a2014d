import { type BucketCounts, shareBelow, type ToldOfBuckets } from '../../statistics/index.ts';
import { AT_LEAST, type Buckets, emptyLine, KEPT_MARKS, type Line } from './lines.ts';

const at = ({ bounds, counts, exponential }: Buckets, i: number): BucketCounts => ({
  bounds,
  counts: (bound) => counts[bound]![i]!,
  exponential,
});
const TOLERATED = 4;
/** Satisfied up to the target, half satisfied up to four times it. */
export function satisfaction(own: BucketCounts, target: number): ToldOfBuckets | null {
  const [good, tolerated] = [shareBelow(own, target), shareBelow(own, TOLERATED * target)];
  if (good === null || tolerated === null) return null;
  return { value: (good.value + tolerated.value) / 2, atLeast: good.atLeast || tolerated.atLeast };
}

/** A line of what is told of each moment's buckets. */
export function ofBuckets(line: Line, tell: (own: BucketCounts) => ToldOfBuckets | null): Line {
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
    out.marks[i] = (line.marks[i]! & KEPT_MARKS) | (told.atLeast ? AT_LEAST : 0);
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
