import { hasEnded } from '../findings/index.ts';
import { type NodeObject, type PodObject, type WorkloadRef, workloadKey } from '../inventory/index.ts';
import type { Samples } from '../samples/index.ts';
import { type DurationMs, type EpochMs, RESOURCES, type Resource } from '../units/index.ts';
import { type Grid, gridEnd, gridTime, latestOnGrid, perSecondOnGrid, stalenessOf, unreadOnGrid } from './grid.ts';
import { amountsOf, podAmounts } from './podAmounts.ts';
import { finish, gather, type LimitKind, orNull, type UsageLines, type UsageNode } from './usageNode.ts';

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

export interface UsageInput {
  readonly cluster: { readonly name: string; readonly uid: string };
  readonly grid: Grid;
  readonly interval: DurationMs;
  readonly pods: readonly PodSpan[];
  readonly nodes: readonly NodeSpan[];
  /** Samples of a vital of one container or node; empty when never read. */
  readonly containerSamples: (vital: ContainerVital, podUid: string, container: string) => Samples;
  readonly nodeSamples: (vital: NodeVital, node: string) => Samples;
  /** What a namespace's quota allows it to use; null where there is none. */
  readonly quotaOf?: (namespace: string, resource: Resource) => number | null;
}
export type ContainerVital = 'container.cpu.time' | 'container.cpu.throttled' | 'container.memory.working_set';
export type NodeVital = 'node.cpu.time' | 'node.memory.working_set';

/** CPU use is a mean over this many intervals, so that one late reading does not make a spike. */
const RATE_INTERVALS = 4;

const presentAt = (span: { from: EpochMs; to: EpochMs | null }, at: EpochMs) =>
  at >= span.from && (span.to === null || at < span.to);

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
    level: 'workload',
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

  /** Against its quota when there is one, else against the sum of its pods' limits. */
  const namespaceNode = (name: string, workloads: UsageNode[]): UsageNode => {
    const draft = gather(grid, workloads, 'limit');
    const limitIs = { cpu: draft.limitIs, memory: draft.limitIs } as Record<Resource, LimitKind>;
    for (const resource of RESOURCES) {
      const quota = input.quotaOf?.(name, resource) ?? null;
      if (quota === null) continue;
      draft.lines[resource].limit.fill(quota);
      limitIs[resource] = 'quota';
    }
    const present = workloads.some((workload) => workload.present);
    const pods = workloads.reduce((sum, workload) => sum + workload.pods, 0);
    return finish('namespace', { name, key: name, uid: null }, { ...draft, limitIs }, workloads, present, pods);
  };

  const namespaces = [...groupBy(input.pods, (span) => span.workload.namespace)].map(([name, spans]) => {
    const workloads = [...groupBy(spans, (span) => workloadKey(span.workload))].map(([key, own]) => {
      const { workload } = own[0]!;
      return group('workload', { name: workload.name, key, uid: workload.uid }, own.map(podNode));
    });
    return namespaceNode(name, workloads);
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

/** The pods placed on each node, ended ones apart: one pass, since there may be thousands of nodes. */
export function placedOn(pods: readonly PodSpan[]): ReadonlyMap<string, readonly PodSpan[]> {
  return groupBy(
    pods.filter(({ pod }) => pod.node !== null && !hasEnded(pod)),
    ({ pod }) => pod.node ?? '',
  );
}

/**
 * A node's own figures, against its allocatable; requests are those of the pods placed on it. `pods` are what is shown
 * of them.
 */
export function nodeUsage(
  input: UsageInput,
  span: NodeSpan,
  placed: readonly PodSpan[],
  pods: readonly UsageNode[] = [],
): UsageNode {
  const { grid, interval } = input;
  const staleness = stalenessOf(interval);
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
    pods,
    presentAt(span, gridEnd(grid)),
    placed.filter((own) => presentAt(own, gridEnd(grid))).length,
  );
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
