/**
 * An exponential histogram, as the open telemetry protocol has it (data model, "ExponentialHistogram"): bucket i holds
 * what lies in (base^i, base^(i+1)], base = 2^(2^-scale); what lies within ± the threshold is in the zero bucket.
 */
export interface Exponential {
  readonly scale: number;
  readonly zeroCount: number;
  readonly zeroThreshold: number;
  readonly positive: Buckets;
  /** Of the absolute values. */
  readonly negative: Buckets;
}
/** `counts[i]` belongs to bucket `offset + i`. */
export interface Buckets {
  readonly offset: number;
  readonly counts: readonly number[];
}

/** More buckets than this are joined by halving the scale: guards against senders whose range is absurd. */
const MOST_BUCKETS = 320;
/** Bounds under which one is kept. */
const MOST_BOUNDS = 80;
/** A finer scale is not kept: at 3 a bound is 9 % above the one below. */
const FINEST = 3;
export const LOWEST_SCALE = -10;
export const HIGHEST_SCALE = 20;

/**
 * Whether every bucket holds some double: their bounds lie between the smallest denormal, 2^-1074, and 2^1024 (data model:
 * "implementations … MUST … be able to map IEEE double values"). What lies outside counts nothing that there can be, and
 * lists are made from the first bucket to the last: the number that was sent must not say how long they are.
 */
export function holdsDoubles(scale: number, { offset, counts }: Buckets): boolean {
  const perDoubling = 2 ** scale;
  // one more below: the bucket that the smallest one falls into ends at it
  return offset >= Math.floor(-1074 * perDoubling) - 1 && offset + counts.length <= Math.ceil(1024 * perDoubling);
}

/** The same with buckets 2^by times as wide: every bound that is left was one before, so that no count is made up. */
function coarser({ offset, counts }: Buckets, by: number): Buckets {
  if (by === 0 || counts.length === 0) return { offset, counts };
  const first = offset >> by;
  const out = new Array<number>(((offset + counts.length - 1) >> by) - first + 1).fill(0);
  counts.forEach((count, i) => {
    out[((offset + i) >> by) - first]! += count;
  });
  return { offset: first, counts: out };
}
export function atScale(own: Exponential, scale: number): Exponential {
  const by = own.scale - scale;
  if (by <= 0) return own;
  return { ...own, scale, positive: coarser(own.positive, by), negative: coarser(own.negative, by) };
}
const longest = ({ positive, negative }: Exponential) => Math.max(positive.counts.length, negative.counts.length);
function within(own: Exponential, most: number): Exponential {
  let out = own;
  while (longest(out) > most && out.scale > LOWEST_SCALE) out = atScale(out, out.scale - 1);
  return out;
}

function added(a: Buckets, b: Buckets): Buckets {
  if (a.counts.length === 0) return b;
  if (b.counts.length === 0) return a;
  const offset = Math.min(a.offset, b.offset);
  const end = Math.max(a.offset + a.counts.length, b.offset + b.counts.length);
  // at most MOST_BUCKETS: what is further apart is joined by a coarser scale first
  const counts = new Array<number>(end - offset).fill(0);
  for (const one of [a, b])
    one.counts.forEach((count, i) => {
      counts[one.offset + i - offset]! += count;
    });
  return { offset, counts };
}
const span = (a: Buckets, b: Buckets) =>
  a.counts.length === 0 || b.counts.length === 0
    ? 0
    : Math.max(a.offset + a.counts.length, b.offset + b.counts.length) - Math.min(a.offset, b.offset);

/** What both counted together, at the finest scale that holds it. A wider zero bucket takes in what lies within it. */
export function joined(a: Exponential, b: Exponential): Exponential {
  let [one, two] = [a, b];
  const scale = Math.min(a.scale, b.scale);
  [one, two] = [atScale(a, scale), atScale(b, scale)];
  while (
    Math.max(span(one.positive, two.positive), span(one.negative, two.negative)) > MOST_BUCKETS &&
    one.scale > LOWEST_SCALE
  )
    [one, two] = [atScale(one, one.scale - 1), atScale(two, two.scale - 1)];
  // of buckets that hold doubles no four are left at the lowest scale; what was kept before that was checked starts anew
  if (Math.max(span(one.positive, two.positive), span(one.negative, two.negative)) > MOST_BUCKETS) return b;
  const zeroThreshold = Math.max(one.zeroThreshold, two.zeroThreshold);
  return swallowed({
    scale: one.scale,
    zeroCount: one.zeroCount + two.zeroCount,
    zeroThreshold,
    positive: added(one.positive, two.positive),
    negative: added(one.negative, two.negative),
  });
}
/** Buckets that end within the zero bucket belong to it. */
function swallowed(own: Exponential): Exponential {
  if (own.zeroThreshold <= 0) return own;
  let { zeroCount } = own;
  const cut = ({ offset, counts }: Buckets): Buckets => {
    let from = 0;
    while (from < counts.length && boundOf(own.scale, offset + from + 1) <= own.zeroThreshold) {
      zeroCount += counts[from]!;
      from++;
    }
    return from === 0 ? { offset, counts } : { offset: offset + from, counts: counts.slice(from) };
  };
  const positive = cut(own.positive);
  const negative = cut(own.negative);
  return { ...own, positive, negative, zeroCount };
}

/** base^index: the upper bound of the bucket below. */
export const boundOf = (scale: number, index: number): number => 2 ** (index * 2 ** -scale);

/** Cumulative counts at bounds, ascending: how many values were at most that. Without the last one, which is +Inf. */
export function boundsOf(own: Exponential): { readonly bound: number; readonly count: number }[] {
  const shown = within(atScale(own, FINEST), MOST_BOUNDS);
  const { scale, positive, negative, zeroCount, zeroThreshold } = shown;
  const out: { bound: number; count: number }[] = [];
  let count = 0;
  for (let i = negative.counts.length - 1; i >= 0; i--) {
    count += negative.counts[i]!;
    out.push({ bound: -boundOf(scale, negative.offset + i), count });
  }
  if (zeroCount > 0 || negative.counts.length > 0) {
    count += zeroCount;
    out.push({ bound: zeroThreshold, count });
  }
  if (positive.counts.length > 0) {
    const low = boundOf(scale, positive.offset);
    if (low > zeroThreshold || out.length === 0) out.push({ bound: low, count });
  }
  positive.counts.forEach((own_, i) => {
    count += own_;
    out.push({ bound: boundOf(scale, positive.offset + i + 1), count });
  });
  return out.filter(({ bound }) => Number.isFinite(bound));
}
