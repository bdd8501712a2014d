import { type Samples, stalenessOf } from '../samples/index.ts';
import type { DurationMs, EpochMs } from '../units/index.ts';
import { type Grid, latestOnGrid, perSecondOnGrid, presenceOn, RATE_INTERVALS, unreadOnGrid } from './grid.ts';
import {
  emptyLines,
  figures,
  type LimitKind,
  type ResourceUsage,
  summed,
  type UsageLines,
  type UsageNode,
} from './usageNode.ts';

/** Lines that are the same everywhere are one: there may be tens of thousands of parts. Nobody writes to them. */
const constants = new Map<number, { zeros: Float64Array; unknown: Float64Array }>();
function constantsOf(count: number): { zeros: Float64Array; unknown: Float64Array } {
  let own = constants.get(count);
  if (!own) {
    own = { zeros: new Float64Array(count), unknown: new Float64Array(count).fill(Number.NaN) };
    constants.set(count, own);
  }
  return own;
}

/**
 * One series that an object is read by, against the size it has, when that is read too. `counts`: it counts up, and its
 * use is its growth per second.
 */
export function linesOfSeries({
  samples,
  grid,
  interval,
  counts,
  size = null,
}: {
  readonly samples: Samples;
  readonly grid: Grid;
  readonly interval: DurationMs;
  readonly counts: boolean;
  readonly size?: Samples | null;
}): UsageLines {
  const staleness = stalenessOf(interval);
  const use = counts
    ? perSecondOnGrid({ samples, grid, over: Math.max(grid.step, RATE_INTERVALS * interval), staleness })
    : latestOnGrid(samples, grid, staleness);
  const unread = unreadOnGrid({ samples, grid, staleness, from: samples.times[0] ?? 0 });
  return linesAgainst(use, unread, size === null ? null : latestOnGrid(size, grid, staleness));
}

/** What was used, against a size; without one it is open. A part counts as there where it has a size. */
export function linesAgainst(use: Float64Array, unread: Uint8Array, size: Float64Array | null): UsageLines {
  const { zeros, unknown } = constantsOf(use.length);
  return {
    use,
    read: use,
    unread,
    request: size === null ? zeros : size.map((own) => (Number.isNaN(own) ? Number.NaN : 0)),
    limit: size ?? unknown,
  };
}

/** 1 while something was there, as a part of a sum. */
export function presenceLines(grid: Grid, from: EpochMs, to: EpochMs | null): UsageLines {
  const [first, end] = presenceOn(grid, from, to);
  const use = new Float64Array(grid.count).fill(1, first, end);
  return linesAgainst(use, new Uint8Array(grid.count), null);
}

export const sumOfLines = (grid: Grid, parts: readonly UsageLines[]): UsageLines =>
  parts.length === 0 ? emptyLines(grid) : summed(grid, parts);

/** Another bound for what was used: lines may be shared, so that they are replaced. */
export const boundBy = (lines: UsageLines, limit: number | null): UsageLines =>
  limit === null
    ? { ...lines, limit: new Float64Array(lines.use.length).fill(Number.NaN) }
    : { ...lines, limit: new Float64Array(lines.use.length).fill(limit) };

/** As of CPU and memory; nothing is asked for. */
export const figuresOf = (lines: UsageLines, limitIs: LimitKind): ResourceUsage => ({
  ...figures(lines, limitIs, null),
  request: null,
});

/** Of one number without a history, such as restarts in the window. */
export const figuresOfCount = (count: number | null, limit: number | null, limitIs: LimitKind): ResourceUsage => ({
  use: count,
  mean: count,
  peak: null,
  request: null,
  limit,
  limitIs: limit === null ? 'none' : limitIs,
  unlimited: null,
  tightness: count === null || limit === null ? null : count / limit,
  heading: null,
});

/** Lines of any object of a tree out of those of its pods, summed when they are first asked for. */
export class SummedTree {
  private readonly known = new Map<UsageNode, UsageLines | null>();
  private readonly grid: Grid;
  private readonly ofPod: (uid: string) => UsageLines | undefined;

  constructor(grid: Grid, ofPod: (uid: string) => UsageLines | undefined) {
    this.grid = grid;
    this.ofPod = ofPod;
  }
  /** Null where none of its pods is read. */
  of(node: UsageNode): UsageLines | null {
    if (node.level === 'pod') return this.ofPod(node.uid ?? '') ?? null;
    let lines = this.known.get(node);
    if (lines === undefined) {
      const parts = node.children.flatMap((child) => this.of(child) ?? []);
      lines = parts.length === 0 ? null : summed(this.grid, parts);
      this.known.set(node, lines);
    }
    return lines;
  }
  /** Of several pods. */
  ofPods(uids: Iterable<string>): UsageLines | null {
    const parts = [...uids].flatMap((uid) => this.ofPod(uid) ?? []);
    return parts.length === 0 ? null : summed(this.grid, parts);
  }
}
