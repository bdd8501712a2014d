import { percentile } from '../statistics/index.ts';
import type { Resource } from '../units/index.ts';
import { type Grid, headingOf } from './grid.ts';

/** "time": a share of the time, of which there is no more than all. */
export type LimitKind = 'limit' | 'quota' | 'allocatable' | 'size' | 'time' | 'none';

export interface ResourceUsage {
  /** At the end of the window; null when nothing was read. */
  readonly use: number | null;
  /** Mean of use in the window. */
  readonly mean: number | null;
  /** 95th percentile of use in the window. */
  readonly peak: number | null;
  readonly request: number | null;
  readonly limit: number | null;
  readonly limitIs: LimitKind;
  /** The first container without a limit, which is why there is none; null when that is not the reason. */
  readonly unlimited: string | null;
  /** 95th percentile of use ÷ limit in the window. */
  readonly tightness: number | null;
  /** Where the window's trend lands one window later. */
  readonly heading: number | null;
}

export type UsageLevel = 'cluster' | 'namespace' | 'workload' | 'pod' | 'container' | 'node' | 'host' | 'team';

/** Lines behind the figures, one value per moment of the grid; NaN where unknown. */
export interface UsageLines {
  /** Of a whole: NaN where the reading of one of its parts is missing, so that a gap never looks like less use. */
  readonly use: Float64Array;
  /** Use of those parts that were read, whatever is missing; NaN where nothing was. */
  readonly read: Float64Array;
  /** 1 where a reading of this or of a part of it is missing. */
  readonly unread: Uint8Array;
  readonly request: Float64Array;
  /** NaN where one of the parts had no limit. */
  readonly limit: Float64Array;
}

export interface UsageNode {
  readonly level: UsageLevel;
  readonly name: string;
  /** Identity among siblings: the workload's kind stands before its name, since two kinds may share one. */
  readonly key: string;
  readonly uid: string | null;
  /** Pods that were there at the end of the window, ended ones apart. */
  readonly pods: number;
  readonly present: boolean;
  readonly usage: Readonly<Record<Resource, ResourceUsage>>;
  readonly lines: Readonly<Record<Resource, UsageLines>>;
  /** A container without a limit among its parts, per resource. */
  readonly unlimited: Readonly<Record<Resource, string | null>>;
  /** Share of time throttled, highest container, in the last `over`. */
  readonly throttled: number | null;
  readonly children: readonly UsageNode[];
}

/** What a node is finished from. */
export interface Draft {
  lines: Record<Resource, UsageLines>;
  /** One kind for both resources, or one each. */
  limitIs: LimitKind | Record<Resource, LimitKind>;
  unlimited: Record<Resource, string | null>;
  throttled: number | null;
}

export const emptyLines = (grid: Grid) => ({
  use: new Float64Array(grid.count).fill(Number.NaN),
  read: new Float64Array(grid.count).fill(Number.NaN),
  unread: new Uint8Array(grid.count),
  request: new Float64Array(grid.count).fill(Number.NaN),
  limit: new Float64Array(grid.count).fill(Number.NaN),
});

/** Lines of a whole from those of its parts. */
export function summed(grid: Grid, parts: readonly UsageLines[]): UsageLines {
  // of a container, what is unread has no use: alone it is the whole, and its lines can be shared
  if (parts.length === 1 && parts[0]!.use === parts[0]!.read) return parts[0]!;
  const out = emptyLines(grid);
  const { read, unread, request, limit } = out;
  const unlimited = new Uint8Array(grid.count);
  // part by part: each lies in one piece in memory
  for (const part of parts) {
    for (let i = 0; i < grid.count; i++) {
      if (part.unread[i] === 1) unread[i] = 1;
      const own = part.read[i]!;
      if (!Number.isNaN(own)) read[i] = Number.isNaN(read[i]!) ? own : read[i]! + own;
      const asked = part.request[i]!;
      // a part is present where it has a request, be it 0
      if (Number.isNaN(asked)) continue;
      request[i] = Number.isNaN(request[i]!) ? asked : request[i]! + asked;
      const bound = part.limit[i]!;
      if (Number.isNaN(bound)) unlimited[i] = 1;
      else limit[i] = Number.isNaN(limit[i]!) ? bound : limit[i]! + bound;
    }
  }
  for (let i = 0; i < grid.count; i++) {
    out.use[i] = unread[i] === 1 ? Number.NaN : read[i]!;
    if (unlimited[i] === 1) limit[i] = Number.NaN;
  }
  return out;
}

export const orNull = (value: number | undefined) => (value === undefined || Number.isNaN(value) ? null : value);

/** Of what was read; null when nothing was. */
export function meanOf(values: Float64Array): number | null {
  let sum = 0;
  let count = 0;
  for (const value of values) {
    if (Number.isNaN(value)) continue;
    sum += value;
    count++;
  }
  return count === 0 ? null : sum / count;
}

export function figures(lines: UsageLines, limitIs: LimitKind, unlimited: string | null): ResourceUsage {
  const ratios = lines.use.map((use, i) => use / lines.limit[i]!);
  const limit = orNull(lines.limit.at(-1));
  return {
    use: orNull(lines.read.at(-1)),
    mean: meanOf(lines.use),
    peak: percentile(lines.use, 0.95),
    request: orNull(lines.request.at(-1)),
    limit,
    limitIs: limit === null ? 'none' : limitIs,
    unlimited: limit === null ? unlimited : null,
    tightness: limit === null ? null : percentile(ratios, 0.95),
    heading: headingOf(lines.use),
  };
}

const kindOf = ({ limitIs }: Draft, resource: Resource): LimitKind =>
  typeof limitIs === 'string' ? limitIs : limitIs[resource];

export function finish({
  level,
  identity,
  draft,
  children,
  present,
  pods,
}: {
  readonly level: UsageLevel;
  readonly identity: { name: string; key?: string; uid: string | null };
  readonly draft: Draft;
  readonly children: readonly UsageNode[];
  readonly present: boolean;
  readonly pods: number;
}): UsageNode {
  // most rows of a tree are never looked at: their figures are worked out when they are
  let usage: UsageNode['usage'] | null = null;
  return {
    level,
    name: identity.name,
    key: identity.key ?? identity.name,
    uid: identity.uid,
    pods,
    present,
    get usage() {
      usage ??= {
        cpu: figures(draft.lines.cpu, kindOf(draft, 'cpu'), draft.unlimited.cpu),
        memory: figures(draft.lines.memory, kindOf(draft, 'memory'), draft.unlimited.memory),
      };
      return usage;
    },
    lines: draft.lines,
    unlimited: draft.unlimited,
    throttled: draft.throttled,
    children,
  };
}

/** Something that is there but had no part in the window: nothing used, nothing asked for. */
export const emptyNode = ({
  level,
  identity,
  grid,
  present,
}: {
  readonly level: UsageLevel;
  readonly identity: { name: string; key: string; uid: string | null };
  readonly grid: Grid;
  readonly present: boolean;
}): UsageNode =>
  finish({
    level,
    identity,
    draft: {
      lines: { cpu: emptyLines(grid), memory: emptyLines(grid) },
      limitIs: 'none',
      unlimited: { cpu: null, memory: null },
      throttled: null,
    },
    children: [],
    present,
    pods: 0,
  });

/** A part that does not use a resource's figures at the grid's end still counts for the times before. */
export function gather(grid: Grid, children: readonly UsageNode[], limitIs: LimitKind): Draft & { limitIs: LimitKind } {
  const openPart = (resource: Resource) =>
    children.find(
      ({ present, lines }) =>
        present && Number.isNaN(lines[resource].limit.at(-1)!) && !Number.isNaN(lines[resource].request.at(-1)!),
    )?.unlimited[resource] ?? null;
  return {
    lines: {
      cpu: summed(
        grid,
        children.map((child) => child.lines.cpu),
      ),
      memory: summed(
        grid,
        children.map((child) => child.lines.memory),
      ),
    },
    limitIs,
    unlimited: { cpu: openPart('cpu'), memory: openPart('memory') },
    throttled: highest(children.map((child) => child.throttled)),
  };
}

function highest(values: readonly (number | null)[]): number | null {
  return values.reduce<number | null>(
    (top, value) => (value !== null && (top === null || value > top) ? value : top),
    null,
  );
}

/** Tightest first; what has no tightness comes after, by use. */
export function byTightness(resource: Resource): (a: UsageNode, b: UsageNode) => number {
  return (a, b) => {
    const [left, right] = [a.usage[resource], b.usage[resource]];
    if ((left.tightness === null) !== (right.tightness === null)) return left.tightness === null ? 1 : -1;
    if (left.tightness !== null && right.tightness !== null)
      return right.tightness - left.tightness || a.key.localeCompare(b.key);
    return (right.use ?? -1) - (left.use ?? -1) || a.key.localeCompare(b.key);
  };
}
