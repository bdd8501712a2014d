import { hasEnded } from '../findings/index.ts';
import { type NodeObject, type PodObject, type WorkloadRef, workloadKey } from '../inventory/index.ts';
import type { Samples } from '../samples/index.ts';
import { type DurationMs, type EpochMs, RESOURCES, type Resource } from '../units/index.ts';
import {
  type Grid,
  gridEnd,
  gridTime,
  headingOf,
  latestOnGrid,
  percentile,
  perSecondOnGrid,
  stalenessOf,
  unreadOnGrid,
} from './grid.ts';
import { amountsOf, podAmounts } from './podAmounts.ts';

/** A pod and the time it was there. */
export interface PodSpan {
  readonly pod: PodObject;
  readonly workload: WorkloadRef;
  readonly from: EpochMs;
  readonly to: EpochMs | null;
}
export interface NodeSpan {
  readonly node: NodeObject;
  readonly from: EpochMs;
  readonly to: EpochMs | null;
}

export type LimitKind = 'limit' | 'allocatable' | 'none';

export interface ResourceUsage {
  /** At the end of the window; null when nothing was read. */
  readonly use: number | null;
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

export type UsageLevel = 'cluster' | 'namespace' | 'workload' | 'pod' | 'container' | 'node';

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

export interface UsageInput {
  readonly cluster: { readonly name: string; readonly uid: string };
  readonly grid: Grid;
  readonly interval: DurationMs;
  readonly pods: readonly PodSpan[];
  readonly nodes: readonly NodeSpan[];
  /** Samples of a vital of one container or node; empty when never read. */
  readonly containerSamples: (vital: ContainerVital, podUid: string, container: string) => Samples;
  readonly nodeSamples: (vital: NodeVital, node: string) => Samples;
}
export type ContainerVital = 'container.cpu.time' | 'container.cpu.throttled' | 'container.memory.working_set';
export type NodeVital = 'node.cpu.time' | 'node.memory.working_set';

/** CPU use is a mean over this many intervals, so that one late reading does not make a spike. */
const RATE_INTERVALS = 4;

interface Draft {
  lines: Record<Resource, UsageLines>;
  limitIs: LimitKind;
  unlimited: Record<Resource, string | null>;
  throttled: number | null;
}

const emptyLines = (grid: Grid) => ({
  use: new Float64Array(grid.count).fill(Number.NaN),
  read: new Float64Array(grid.count).fill(Number.NaN),
  unread: new Uint8Array(grid.count),
  request: new Float64Array(grid.count).fill(Number.NaN),
  limit: new Float64Array(grid.count).fill(Number.NaN),
});

const presentAt = (span: { from: EpochMs; to: EpochMs | null }, at: EpochMs) =>
  at >= span.from && (span.to === null || at < span.to);

function summed(grid: Grid, parts: readonly UsageLines[]): UsageLines {
  const out = emptyLines(grid);
  for (let i = 0; i < grid.count; i++) {
    let use = Number.NaN;
    let request = Number.NaN;
    let limit = Number.NaN;
    let unlimited = false;
    for (const part of parts) {
      if (part.unread[i] === 1) out.unread[i] = 1;
      if (!Number.isNaN(part.read[i]!)) use = (Number.isNaN(use) ? 0 : use) + part.read[i]!;
      // a part is present where it has a request, be it 0
      if (Number.isNaN(part.request[i]!)) continue;
      request = (Number.isNaN(request) ? 0 : request) + part.request[i]!;
      if (Number.isNaN(part.limit[i]!)) unlimited = true;
      else limit = (Number.isNaN(limit) ? 0 : limit) + part.limit[i]!;
    }
    out.read[i] = use;
    out.use[i] = out.unread[i] === 1 ? Number.NaN : use;
    out.request[i] = request;
    out.limit[i] = unlimited ? Number.NaN : limit;
  }
  return out;
}

const orNull = (value: number | undefined) => (value === undefined || Number.isNaN(value) ? null : value);

function figures(lines: UsageLines, limitIs: LimitKind, unlimited: string | null): ResourceUsage {
  const ratios = lines.use.map((use, i) => use / lines.limit[i]!);
  const limit = orNull(lines.limit.at(-1));
  return {
    use: orNull(lines.read.at(-1)),
    peak: percentile(lines.use, 0.95),
    request: orNull(lines.request.at(-1)),
    limit,
    limitIs: limit === null ? 'none' : limitIs,
    unlimited: limit === null ? unlimited : null,
    tightness: limit === null ? null : percentile(ratios, 0.95),
    heading: headingOf(lines.use),
  };
}

function finish(
  level: UsageLevel,
  identity: { name: string; key?: string; uid: string | null },
  draft: Draft,
  children: readonly UsageNode[],
  present: boolean,
  pods: number,
): UsageNode {
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
        cpu: figures(draft.lines.cpu, draft.limitIs, draft.unlimited.cpu),
        memory: figures(draft.lines.memory, draft.limitIs, draft.unlimited.memory),
      };
      return usage;
    },
    lines: draft.lines,
    unlimited: draft.unlimited,
    throttled: draft.throttled,
    children,
  };
}

/** A part that does not use a resource's figures at the grid's end still counts for the times before. */
function gather(grid: Grid, children: readonly UsageNode[], limitIs: LimitKind): Draft {
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

/** A container that was never restarted says itself since when it runs; before that nobody misses its readings. */
function runsSince(span: PodSpan, { state, restarts }: PodSpan['pod']['containers'][number]): EpochMs {
  return restarts === 0 && state.is === 'running' && state.since !== null
    ? Math.max(span.from, state.since)
    : span.from;
}

/** Use, request, limit and tightness of every object of a cluster over a window (design/usage.md). */
export function usageTree(input: UsageInput): UsageNode {
  const { grid, interval } = input;
  const staleness = stalenessOf(interval);
  const over = Math.max(grid.step, RATE_INTERVALS * interval);
  const end = gridEnd(grid);

  const containerNode = (span: PodSpan, container: PodSpan['pod']['containers'][number]): UsageNode => {
    const alive = presentAt(span, end) && !hasEnded(span.pod);
    const sample = (vital: ContainerVital) => input.containerSamples(vital, span.pod.uid, container.name);
    const constant = (value: number | null) => {
      const line = new Float64Array(grid.count).fill(Number.NaN);
      if (value === null || hasEnded(span.pod)) return line;
      for (let i = 0; i < grid.count; i++) if (presentAt(span, gridTime(grid, i))) line[i] = value;
      return line;
    };
    const from = runsSince(span, container);
    const lines = (resource: Resource, samples: Samples, use: Float64Array): UsageLines => {
      const own = amountsOf(container, resource);
      const unread = unreadOnGrid(samples, grid, staleness, from);
      for (let i = 0; i < grid.count; i++) if (!presentAt(span, gridTime(grid, i))) unread[i] = 0;
      return {
        use,
        read: use,
        unread,
        request: constant(own.request ?? own.limit ?? 0),
        limit: constant(own.limit),
      };
    };
    const cpu = sample('container.cpu.time');
    const memory = sample('container.memory.working_set');
    const throttled = perSecondOnGrid(
      sample('container.cpu.throttled'),
      { start: end, step: 1, count: 1 },
      over,
      staleness,
    );
    const name = container.name;
    return finish(
      'container',
      { name, uid: null },
      {
        lines: {
          cpu: lines('cpu', cpu, perSecondOnGrid(cpu, grid, over, staleness)),
          memory: lines('memory', memory, latestOnGrid(memory, grid, staleness)),
        },
        limitIs: 'limit',
        unlimited: { cpu: name, memory: name },
        throttled: orNull(throttled[0]),
      },
      [],
      alive,
      0,
    );
  };

  const podNode = (span: PodSpan): UsageNode => {
    const containers = span.pod.containers.map((container) => containerNode(span, container));
    const alive = presentAt(span, end) && !hasEnded(span.pod);
    const draft = gather(grid, containers, 'limit');
    for (const resource of RESOURCES) {
      const amounts = podAmounts(span.pod, resource);
      for (let i = 0; i < grid.count; i++) {
        const present = presentAt(span, gridTime(grid, i)) && !hasEnded(span.pod);
        draft.lines[resource].request[i] = present ? amounts.request : Number.NaN;
        draft.lines[resource].limit[i] = present && amounts.limit !== null ? amounts.limit : Number.NaN;
      }
      draft.unlimited[resource] = amounts.unlimited;
    }
    return finish('pod', { name: span.pod.name, uid: span.pod.uid }, draft, containers, alive, alive ? 1 : 0);
  };

  const group = (
    level: 'namespace' | 'workload',
    identity: { name: string; key: string; uid: string | null },
    children: UsageNode[],
  ) =>
    finish(
      level,
      identity,
      gather(grid, children, 'limit'),
      children,
      children.some((child) => child.present),
      children.reduce((sum, child) => sum + child.pods, 0),
    );

  const namespaces = [...groupBy(input.pods, (span) => span.workload.namespace)].map(([name, spans]) => {
    const workloads = [...groupBy(spans, (span) => workloadKey(span.workload))].map(([key, own]) => {
      const { workload } = own[0]!;
      return group('workload', { name: workload.name, key, uid: workload.uid }, own.map(podNode));
    });
    return group('namespace', { name, key: name, uid: null }, workloads);
  });

  const draft = gather(grid, namespaces, 'allocatable');
  const accepting = input.nodes.filter(({ node }) => node.acceptsPods);
  for (const resource of RESOURCES) {
    for (let i = 0; i < grid.count; i++) {
      const there = accepting.filter((span) => presentAt(span, gridTime(grid, i)));
      draft.lines[resource].limit[i] =
        there.length === 0 ? Number.NaN : there.reduce((sum, { node }) => sum + (node.allocatable[resource] ?? 0), 0);
    }
    draft.unlimited[resource] = null;
  }
  const pods = namespaces.reduce((sum, namespace) => sum + namespace.pods, 0);
  return finish('cluster', input.cluster, draft, namespaces, true, pods);
}

/** A node's own figures, against its allocatable; requests are those of the pods placed on it. */
export function nodeUsage(input: UsageInput, span: NodeSpan): UsageNode {
  const { grid, interval } = input;
  const staleness = stalenessOf(interval);
  const placed = input.pods.filter(({ pod }) => pod.node === span.node.name && !hasEnded(pod));
  const line = (resource: Resource, use: Float64Array): UsageLines => ({
    use,
    read: use,
    unread: new Uint8Array(grid.count),
    request: Float64Array.from({ length: grid.count }, (_, i) =>
      placed
        .filter((own) => presentAt(own, gridTime(grid, i)))
        .reduce((sum, own) => sum + podAmounts(own.pod, resource).request, 0),
    ),
    limit: Float64Array.from({ length: grid.count }, (_, i) =>
      presentAt(span, gridTime(grid, i)) ? (span.node.allocatable[resource] ?? Number.NaN) : Number.NaN,
    ),
  });
  const over = Math.max(grid.step, RATE_INTERVALS * interval);
  return finish(
    'node',
    { name: span.node.name, uid: span.node.uid },
    {
      lines: {
        cpu: line('cpu', perSecondOnGrid(input.nodeSamples('node.cpu.time', span.node.name), grid, over, staleness)),
        memory: line(
          'memory',
          latestOnGrid(input.nodeSamples('node.memory.working_set', span.node.name), grid, staleness),
        ),
      },
      limitIs: 'allocatable',
      unlimited: { cpu: null, memory: null },
      throttled: null,
    },
    [],
    presentAt(span, gridEnd(grid)),
    placed.filter((own) => presentAt(own, gridEnd(grid))).length,
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

function groupBy<T>(items: readonly T[], keyOf: (item: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const group = groups.get(keyOf(item));
    if (group) group.push(item);
    else groups.set(keyOf(item), [item]);
  }
  return groups;
}
