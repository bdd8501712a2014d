import type { Spread } from '../answered/index.ts';
import { formatCount, formatDuration, formatLatency, formatPercent, formatRate } from '../format/index.ts';
import { percentile } from '../statistics/index.ts';
import { type DurationMs, type EpochMs, MINUTE } from '../units/index.ts';
import { type Grid, gridTime } from '../usage/index.ts';
import type { Finding } from './finding.ts';

/** Lines of what a workload's programs answer; NaN where nothing was read, or nothing was asked. */
export interface AnsweredLines {
  readonly grid: Grid;
  /** Requests per second. */
  readonly all: Float64Array;
  readonly failedShare: Float64Array;
  /** Seconds that 95 % of the requests stay below. */
  readonly latency: Float64Array;
}
interface Far {
  readonly now: number;
  readonly usual: number;
  /** Null: for as long as was looked at. */
  readonly since: EpochMs | null;
}
/** How a workload answers now, as far as that is far from the usual. */
export interface Answering {
  /** Requests per second, lately. */
  readonly rate: number;
  readonly failing: Far | null;
  readonly slow: Far | null;
  /** One of its pods gets far more than its part. */
  readonly uneven: Spread | null;
}

/** A level is what was read over this. */
const LATELY: DurationMs = 5 * MINUTE;
/** So many points tell what is usual. */
const FEWEST_USUAL = 12;
/** Fewer requests than this tell nothing: per second. */
const FEWEST_REQUESTS = 0.1;
const FAILS = { times: 4, least: 0.01 } as const;
const SLOW = { times: 2, least: 0.05 } as const;
/** Of a share so high people are without answers. */
const MOST_FAIL = 0.5;

const known = (values: Float64Array): number[] => [...values].filter((value) => !Number.isNaN(value));
const mean = (values: readonly number[]): number | null =>
  values.length === 0 ? null : values.reduce((sum, value) => sum + value, 0) / values.length;
const latest = (values: Float64Array, { step }: Grid): number[] => known(values.subarray(-Math.ceil(LATELY / step)));

/** The first moment of the stretch in which it stayed above, through what was read lately and then through what was before. */
function sinceOf(
  lines: readonly { readonly grid: Grid; readonly values: Float64Array }[],
  above: number,
): EpochMs | null {
  let first: EpochMs | null = null;
  for (const { grid, values } of lines)
    for (let i = values.length - 1; i >= 0; i--) {
      if (Number.isNaN(values[i]!)) continue;
      if (values[i]! < above) return first;
      first = gridTime(grid, i);
    }
  return null;
}

/**
 * Lately against what is usual: the middle of the time before. Null where too little was asked or is known.
 * `lately`: the last half hour, finely; `before`: about a day, up to where `lately` begins.
 */
export function answeringOf(
  lately: AnsweredLines,
  before: AnsweredLines,
  uneven: Spread | null = null,
): Answering | null {
  const rate = mean(latest(lately.all, lately.grid));
  if (rate === null || rate < FEWEST_REQUESTS) return null;
  const far = (of: 'failedShare' | 'latency', { times, least }: { readonly times: number; readonly least: number }) => {
    const usual = known(before[of]);
    const now = mean(latest(lately[of], lately.grid));
    if (usual.length < FEWEST_USUAL || now === null) return null;
    const middle = percentile(usual, 0.5)!; // there are some
    const most = Math.max(times * middle, middle + least);
    if (now < most) return null;
    const lines = [lately, before].map(({ grid, [of]: values }) => ({ grid, values }));
    return { now, usual: middle, since: sinceOf(lines, middle + (most - middle) / 4) };
  };
  return { rate, failing: far('failedShare', FAILS), slow: far('latency', SLOW), uneven };
}

/** Failures and latency far from the usual, and what is asked spread unevenly. */
export function answeringFindings({ rate, failing, slow, uneven }: Answering): Finding[] {
  const over = `of ${formatRate(rate)} over the last ${formatDuration(LATELY)}; what is usual is the middle of the day before`;
  return [
    ...(failing
      ? [
          {
            code: 'failsMore',
            severity: failing.now >= MOST_FAIL ? 'critical' : 'warning',
            reason: `${formatPercent(failing.now)} of the requests that it answers fail, usually ${formatPercent(failing.usual)}.`,
            evidence: over,
            since: failing.since,
            nextStep: 'Look at its log since then, at what it calls, and at what changed just before.',
          } as const,
        ]
      : []),
    ...(slow
      ? [
          {
            code: 'slower',
            severity: 'warning',
            reason: `It answers slowly: 95 % of its requests stay below ${formatLatency(slow.now)}, usually below ${formatLatency(slow.usual)}.`,
            evidence: over,
            since: slow.since,
            nextStep:
              'Look whether it is at its CPU limit or waits for what it calls, and whether more is asked of it than usual.',
          } as const,
        ]
      : []),
    ...(uneven
      ? [
          {
            code: 'unevenSpread',
            severity: 'warning',
            reason: `${uneven.pod} gets ${uneven.times.toFixed(1)} times its part of what is asked of ${formatCount(uneven.pods, 'pod')}.`,
            evidence: `of ${formatRate(rate)} over the last ${formatDuration(LATELY)}`,
            since: uneven.since,
            nextStep:
              'Look whether callers keep long connections to one pod, and whether the others are ready behind its service.',
          } as const,
        ]
      : []),
  ];
}
