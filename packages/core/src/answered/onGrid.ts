import type { Samples } from '../samples/index.ts';
import { percentileOfBuckets } from '../statistics/index.ts';
import type { DurationMs } from '../units/index.ts';
import { flowOnGrid, type Grid } from '../usage/index.ts';

/** A counter of requests. */
export interface Counted {
  readonly failed: boolean;
  readonly samples: Samples;
}
/** Requests up to a bound, of one histogram. */
export interface Bucket {
  /** Names the histogram that it is a part of. */
  readonly of: string;
  /** In seconds. */
  readonly bound: number;
  readonly samples: Samples;
}

const nothing = (grid: Grid) => new Float64Array(grid.count).fill(Number.NaN);

/** Requests per second, and the share of them that failed; NaN where nothing was read, the share also where there were none. */
export function ratesOnGrid(
  counted: readonly Counted[],
  grid: Grid,
  interval: DurationMs,
): { all: Float64Array; failedShare: Float64Array } {
  const rate = (list: readonly Counted[]) =>
    flowOnGrid(
      list.map(({ samples }) => samples),
      grid,
      interval,
    );
  const all = rate(counted);
  const failed = rate(counted.filter((one) => one.failed));
  return {
    all,
    failedShare: all.map((own, i) => (own > 0 ? (Number.isNaN(failed[i]!) ? 0 : failed[i]!) / own : Number.NaN)),
  };
}

export interface Latency {
  /** Seconds that this share of the requests stayed below, one line a share. */
  readonly below: readonly Float64Array[];
  /** The largest finite bound: what lies there took at least as long. */
  readonly most: number;
}

/**
 * How long requests took: linear within a bucket, the lowest beginning at 0 (design/measures.md). Histograms whose bounds
 * differ are taken together at the bounds they have in common.
 */
export function latencyOnGrid({
  buckets,
  grid,
  interval,
  shares,
}: {
  readonly buckets: readonly Bucket[];
  readonly grid: Grid;
  readonly interval: DurationMs;
  readonly shares: readonly number[];
}): Latency {
  const bounds = commonBounds(buckets);
  const most = Math.max(0, ...bounds.filter((bound) => Number.isFinite(bound)));
  if (bounds.length === 0 || bounds.at(-1) !== Number.POSITIVE_INFINITY)
    return { below: shares.map(() => nothing(grid)), most };
  const rates = bounds.map((bound) =>
    flowOnGrid(
      buckets.filter((bucket) => bucket.bound === bound).map(({ samples }) => samples),
      grid,
      interval,
    ),
  );
  const below = shares.map(() => nothing(grid));
  for (let i = 0; i < grid.count; i++) {
    const all = rates.at(-1)![i]!; // there is one
    if (!(all > 0)) continue;
    shares.forEach((share, n) => {
      const told = percentileOfBuckets(
        { bounds, counts: (bound) => rates[bound]![i]!, exponential: false },
        share * 100,
      );
      if (told !== null) below[n]![i] = told.value;
    });
  }
  return { below, most };
}

function commonBounds(buckets: readonly Bucket[]): number[] {
  const byHistogram = new Map<string, Set<number>>();
  for (const { of, bound } of buckets) {
    const own = byHistogram.get(of) ?? new Set();
    byHistogram.set(of, own.add(bound));
  }
  const [first, ...others] = [...byHistogram.values()];
  return [...(first ?? [])].filter((bound) => others.every((own) => own.has(bound))).sort((a, b) => a - b);
}
