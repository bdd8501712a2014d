import { hasEnded } from '../findings/index.ts';
import { type NodeObject, type PodObject, type WorkloadRef, workloadKey } from '../inventory/index.ts';
import type { Samples } from '../samples/index.ts';
import { type DurationMs, type EpochMs, RESOURCES, type Resource } from '../units/index.ts';
import {
  type Grid,
  gridEnd,
  gridTime,
  latestOnGrid,
  perSecondOnGrid,
  presenceOn,
  RATE_INTERVALS,
  stalenessOf,
  unreadOnGrid,
} from './grid.ts';
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
export type NodeVital = 'node.cpu.time' | 'node.memory.working_set' | 'node.inodes.used' | 'node.inodes.count';

const PODS_A_STEP = 50;

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
  const growing = growTree(input);
  for (;;) {
    const step = growing.next();
    if (step.done) return step.value;
  }
}

/** As `usageTree`, workload by workload: whoever lets it grow may do other things in between. */
export function* growTree(input: UsageInput): Generator<undefined, UsageNode> {
  const { grid, interval } = input;
  const staleness = stalenessOf(interval);
  const over = Math.max(grid.step, RATE_INTERVALS * interval);
  const end = gridEnd(grid);

  // most pods ask for the same and were there all the time: lines that are alike are one, and are never written to
  const constants = new Map<string, Float64Array>();
  const constant = (value: number | null, [first, last]: readonly [number, number]): Float64Array => {
    const key = `${value} ${first} ${last}`;
    let line = constants.get(key);
    if (!line) {
      line = new Float64Array(grid.count).fill(Number.NaN);
      if (value !== null) line.fill(value, first, last);
      constants.set(key, line);
    }
    return line;
  };
  const NEVER = [0, 0] as const;

  const containerNode = (span: PodSpan, container: PodSpan['pod']['containers'][number]): UsageNode => {
    const ended = hasEnded(span.pod);
    const alive = presentAt(span, end) && !ended;
    const there = presenceOn(grid, span.from, span.to);
    const sample = (vital: ContainerVital) => input.containerSamples(vital, span.pod.uid, container.name);
    const from = runsSince(span, container);
    const lines = (resource: Resource, samples: Samples, use: Float64Array): UsageLines => {
      const own = amountsOf(container, resource);
      const unread = unreadOnGrid(samples, grid, staleness, from).fill(0, 0, there[0]).fill(0, there[1]);
      const asked = ended ? NEVER : there;
      return {
        use,
        read: use,
        unread,
        request: constant(own.request ?? own.limit ?? 0, asked),
        limit: constant(own.limit, asked),
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
    const ended = hasEnded(span.pod);
    const alive = presentAt(span, end) && !ended;
    const draft = gather(grid, containers, 'limit');
    const asked = ended ? NEVER : presenceOn(grid, span.from, span.to);
    for (const resource of RESOURCES) {
      const amounts = podAmounts(span.pod, resource);
      draft.lines[resource] = {
        ...draft.lines[resource],
        request: constant(amounts.request, asked),
        limit: constant(amounts.limit, asked),
      };
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
      // lines may be shared with parts: they are replaced, never written to
      draft.lines[resource] = {
        ...draft.lines[resource],
        limit: new Float64Array(grid.count).fill(quota),
      };
      limitIs[resource] = 'quota';
    }
    const present = workloads.some((workload) => workload.present);
    const pods = workloads.reduce((sum, workload) => sum + workload.pods, 0);
    return finish('namespace', { name, key: name, uid: null }, { ...draft, limitIs }, workloads, present, pods);
  };

  const namespaces: UsageNode[] = [];
  for (const [name, spans] of groupBy(input.pods, (span) => span.workload.namespace)) {
    const workloads: UsageNode[] = [];
    for (const [key, own] of groupBy(spans, (span) => workloadKey(span.workload))) {
      const { workload } = own[0]!;
      const pods: UsageNode[] = [];
      for (const [i, span] of own.entries()) {
        pods.push(podNode(span));
        if (i % PODS_A_STEP === PODS_A_STEP - 1) yield;
      }
      workloads.push(group('workload', { name: workload.name, key, uid: workload.uid }, pods));
      yield;
    }
    namespaces.push(namespaceNode(name, workloads));
  }

  const draft = gather(grid, namespaces, 'allocatable');
  const accepting = input.nodes.filter(({ node }) => node.acceptsPods);
  for (const resource of RESOURCES) {
    const limit = new Float64Array(grid.count).fill(Number.NaN);
    for (const span of accepting) {
      const [first, last] = presenceOn(grid, span.from, span.to);
      const own = span.node.allocatable[resource] ?? 0;
      for (let i = first; i < last; i++) limit[i] = (Number.isNaN(limit[i]!) ? 0 : limit[i]!) + own;
    }
    draft.lines[resource] = { ...draft.lines[resource], limit };
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
  const requested = (resource: Resource) => {
    const line = new Float64Array(grid.count);
    for (const own of placed) {
      const [first, last] = presenceOn(grid, own.from, own.to);
      const { request } = podAmounts(own.pod, resource);
      for (let i = first; i < last; i++) line[i]! += request;
    }
    return line;
  };
  const line = (resource: Resource, use: Float64Array): UsageLines => ({
    use,
    read: use,
    unread: new Uint8Array(grid.count),
    request: requested(resource),
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
