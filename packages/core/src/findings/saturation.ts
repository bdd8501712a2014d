import { formatAmount, formatBytes, formatCount, formatDuration, formatPercent } from '../format/index.ts';
import { medianSlope } from '../statistics/index.ts';
import { type DurationMs, type EpochMs, HOUR, MINUTE } from '../units/index.ts';
import { type Grid, gridTime, type UsageLines } from '../usage/index.ts';
import { byWeight, type Finding } from './finding.ts';

/** What a container used over a window, against its limits. */
export interface UsedContainer {
  readonly name: string;
  readonly lines: Readonly<Record<'cpu' | 'memory', Pick<UsageLines, 'use' | 'limit'>>>;
  /** Share of the time that it was kept waiting for the processor lately; null where nobody tells. */
  readonly throttled: number | null;
}
export interface UsedPod {
  readonly name: string;
  readonly containers: readonly UsedContainer[];
}

/** A level is what was read over this. */
const LATELY: DurationMs = 5 * MINUTE;
/** Readings are rates: what is this near is all of it, and more than all is none. */
const ALL = 0.995;
/** Share of its limit from which on a container is at it. */
const AT_LIMIT = 0.9;
/** Share from which on the time at its limit counts. */
const STILL = 0.8;
const THROTTLED = 0.05;
/** So much waiting is felt, however little is used between. */
const THROTTLED_MUCH = 0.25;
/** What reaches its limit within this is told before it does. */
const SOON: DurationMs = 30 * MINUTE;
/** Share of its limit from which on growth is told. */
const HALF_WAY = 0.7;
/** A climb is proven by what was read for so long, and is no start. */
const PROVEN: DurationMs = 15 * MINUTE;

interface Level {
  readonly pod: string;
  readonly container: string;
  readonly use: number;
  readonly limit: number;
  /** Null: longer than was looked at. */
  readonly since: EpochMs | null;
}
interface Busy extends Level {
  readonly throttled: number | null;
}
interface Full extends Level {
  /** A proven climb, bytes an hour; null where there is none. */
  readonly climb: number | null;
  readonly fullIn: DurationMs | null;
}

/** Mean of what was read lately against the limit at the end; null where either is not known. */
function levelOf({ use, limit }: Pick<UsageLines, 'use' | 'limit'>, grid: Grid): { use: number; limit: number } | null {
  const bound = limit.at(-1);
  if (bound === undefined || Number.isNaN(bound) || bound <= 0) return null;
  const first = Math.max(0, grid.count - 1 - Math.floor(LATELY / grid.step));
  let sum = 0;
  let count = 0;
  for (let i = first; i < grid.count; i++)
    if (!Number.isNaN(use[i]!)) {
      sum += use[i]!;
      count++;
    }
  // half of the points at least, and the newest ones among them
  if (count * 2 < grid.count - first || Number.isNaN(use.at(-1)!)) return null;
  return { use: sum / count, limit: bound };
}

/** The first moment from which on a share of the limit was used; null where that goes back beyond what was looked at. */
function sinceOf({ use, limit }: Pick<UsageLines, 'use' | 'limit'>, grid: Grid, share: number): EpochMs | null {
  let first = grid.count - 1;
  for (let i = grid.count - 1; i >= 0; i--) {
    if (Number.isNaN(use[i]!) || Number.isNaN(limit[i]!)) continue;
    if (use[i]! < share * limit[i]!) return gridTime(grid, first);
    first = i;
  }
  // it began with its first reading: what is before the window is not known, what is before its start is nothing
  return first > 1 ? gridTime(grid, first) : null;
}

function busy(pod: string, { name, lines, throttled }: UsedContainer, grid: Grid): Busy | null {
  const level = levelOf(lines.cpu, grid);
  if (!level) return null;
  const share = level.use / level.limit;
  const at = share >= AT_LIMIT && (throttled ?? 1) >= THROTTLED;
  if (!at && (throttled ?? 0) < THROTTLED_MUCH) return null;
  return { pod, container: name, ...level, throttled, since: at ? sinceOf(lines.cpu, grid, STILL) : null };
}

/** Asked of every pod of a cluster: few points are paired. */
const FIT_POINTS = 16;
/** Part of the limit that a climb rises by in what is looked at. */
const RISES = 0.02;

/** Bytes per step, where it climbs all the time: in both halves, and by so much of its limit; null where it does not. */
function climbOf(use: Float64Array, limit: number, grid: Grid): number | null {
  const looked = use.subarray(-Math.max(1, Math.ceil(HOUR / grid.step)));
  const first = looked.findIndex((value) => !Number.isNaN(value));
  const known = looked.subarray(Math.max(0, first));
  if (known.length * grid.step < PROVEN) return null;
  const slope = medianSlope(known, FIT_POINTS);
  if (slope === null || slope * known.length < RISES * limit) return null;
  const half = known.length >> 1;
  const steady = [known.subarray(0, half), known.subarray(half)].every(
    (part) => (medianSlope(part, FIT_POINTS) ?? slope) > slope / 3,
  );
  return steady ? slope : null;
}

function full(pod: string, { name, lines }: UsedContainer, grid: Grid): Full | null {
  const level = levelOf(lines.memory, grid);
  if (!level) return null;
  const share = level.use / level.limit;
  if (share < HALF_WAY) return null;
  const slope = climbOf(lines.memory.use, level.limit, grid);
  const fullIn = slope === null ? null : Math.max(0, (level.limit - lines.memory.use.at(-1)!) / slope) * grid.step;
  if (share < AT_LIMIT && (fullIn === null || fullIn > SOON)) return null;
  return {
    pod,
    container: name,
    ...level,
    climb: slope === null ? null : (slope * HOUR) / grid.step,
    fullIn,
    since: share < AT_LIMIT ? null : sinceOf(lines.memory, grid, AT_LIMIT),
  };
}

const inPods = (among: number, of: number): string => (of > 1 ? ` in ${among} of ${formatCount(of, 'pod')}` : '');

/** Since when the first of them has been so; null where one of them was longer than was looked at. */
const firstOf = (levels: readonly Level[]): EpochMs | null =>
  levels.some(({ since }) => since === null) ? null : Math.min(...levels.map(({ since }) => since!)); // none is null here

function busyFinding(all: readonly Busy[], pods: number): Finding {
  const [worst] = [...all].sort((a, b) => b.use / b.limit - a.use / a.limit);
  const { container, use, limit, throttled, pod } = worst!; // never empty
  const share = use / limit;
  const waits = throttled === null ? '' : ` and is throttled ${formatPercent(throttled)} of the time`;
  return {
    code: 'cpuAtLimit',
    severity: 'warning',
    reason:
      share >= AT_LIMIT
        ? `Container ${container} is at its CPU limit${inPods(all.length, pods)}: it uses ${share >= ALL ? 'all' : formatPercent(share)} of ${formatAmount('cpu', limit)}${waits}.`
        : `Container ${container} is throttled ${formatPercent(throttled)} of the time${inPods(all.length, pods)}: it works in bursts above its CPU limit of ${formatAmount('cpu', limit)}.`,
    evidence: `pod ${pod}: ${formatAmount('cpu', use)} of ${formatAmount('cpu', limit)} over the last ${formatDuration(LATELY)}`,
    since: firstOf(all),
    nextStep:
      'Find what drives the load, run more pods, or raise its CPU limit: what waits for the processor answers late.',
  };
}

function fullFinding(all: readonly Full[], pods: number): Finding {
  const [worst] = [...all].sort(
    (a, b) => (a.fullIn ?? Infinity) - (b.fullIn ?? Infinity) || b.use / b.limit - a.use / a.limit,
  );
  const { container, use, limit, climb, fullIn, pod } = worst!; // never empty
  const soon = fullIn !== null && fullIn <= SOON;
  const course =
    climb === null
      ? 'steadily'
      : `and grows by ${formatBytes(climb)} an hour${soon ? `: at this pace it is at its limit, and ended, within ${formatDuration(SOON)}` : ''}`;
  return {
    code: 'memoryNearLimit',
    severity: soon ? 'critical' : 'warning',
    reason: `Container ${container} uses ${formatPercent(use / limit)} of its memory limit of ${formatBytes(limit)}${inPods(all.length, pods)}, ${course}.`,
    evidence: `pod ${pod}: ${formatBytes(use)} of ${formatBytes(limit)} over the last ${formatDuration(LATELY)}`,
    since: firstOf(all),
    nextStep:
      climb === null
        ? 'Look at its memory over a longer window before you give it more: what it keeps may be what it may free.'
        : 'Look at its memory over a longer window: a steady climb is a leak, a jump is load. Raise the limit only for load.',
  };
}

/**
 * Containers that are at their CPU limit, or near their memory limit, at a window's end: each by its own limit, never by
 * the sum of its pod, and told once for all pods of a workload.
 */
export function saturationFindings(pods: readonly UsedPod[], grid: Grid): Finding[] {
  const found = new Map<string, { busy: Busy[]; full: Full[] }>();
  for (const { name, containers } of pods)
    for (const container of containers) {
      const own = found.get(container.name) ?? { busy: [], full: [] };
      found.set(container.name, own);
      const cpu = busy(name, container, grid);
      if (cpu) own.busy.push(cpu);
      const memory = full(name, container, grid);
      if (memory) own.full.push(memory);
    }
  return [...found.values()]
    .flatMap((own) => [
      ...(own.busy.length > 0 ? [busyFinding(own.busy, pods.length)] : []),
      ...(own.full.length > 0 ? [fullFinding(own.full, pods.length)] : []),
    ])
    .sort(byWeight);
}
