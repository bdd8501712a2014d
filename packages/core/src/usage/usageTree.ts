import {
  amountsOf,
  hasEnded,
  type NodeObject,
  type PodObject,
  podAmounts,
  type WorkloadRef,
  workloadKey,
} from '../inventory/index.ts';
import { type Samples, stalenessOf } from '../samples/index.ts';
import { type DurationMs, type EpochMs, RESOURCES, type Resource } from '../units/index.ts';
import {
  type Grid,
  gridEnd,
  gridTime,
  latestOnGrid,
  perSecondOnGrid,
  presenceOn,
  RATE_INTERVALS,
  unreadOnGrid,
} from './grid.ts';

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
  /** Samples of a vital of one node; empty when never read. */
  readonly nodeSamples: (vital: NodeVital, node: string) => Samples;
  /** What a namespace's quota allows it to use; null where there is none. */
  readonly quotaOf?: (namespace: string, resource: Resource) => number | null;
}
/** What a tree grows from: afterwards its lines tell what its containers' samples did. */
export interface TreeInput extends UsageInput {
  /** Of a vital of one container; empty when never read. */
  readonly containerSamples: (vital: ContainerVital, podUid: string, container: string) => Samples;
}
export type ContainerVital = 'container.cpu.time' | 'container.cpu.throttled' | 'container.memory.working_set';
export type NodeVital =
  | 'node.cpu.time'
  | 'node.memory.working_set'
  | 'node.inodes.used'
  | 'node.inodes.count'
  | 'node.uptime';

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
export function usageTree(input: TreeInput): UsageNode {
  const growing = growTree(input);
  for (;;) {
    const step = growing.next();
    if (step.done) return step.value;
  }
}

/** As `usageTree`, workload by workload: whoever lets it grow may do other things in between. */
export function* growTree(input: TreeInput): Generator<undefined, UsageNode> {
  const nodes = new TreeNodes(input);
  const namespaces: UsageNode[] = [];
  for (const [name, spans] of groupBy(input.pods, (span) => span.workload.namespace)) {
    const workloads: UsageNode[] = [];
    for (const [key, own] of groupBy(spans, (span) => workloadKey(span.workload))) {
      const pods: UsageNode[] = [];
      for (const [i, span] of own.entries()) {
        pods.push(nodes.pod(span));
        if (i % PODS_A_STEP === PODS_A_STEP - 1) yield;
      }
      workloads.push(nodes.workload(own[0]!.workload, key, pods)); // a group has a first one
      yield;
    }
    namespaces.push(nodes.namespace(name, workloads));
  }
  return nodes.cluster(namespaces);
}

const NEVER = [0, 0] as const;
const podsIn = (children: readonly UsageNode[]): number => children.reduce((sum, { pods }) => sum + pods, 0);

/** Makes the nodes of one tree, each from its parts. */
class TreeNodes {
  private readonly staleness: DurationMs;
  private readonly over: DurationMs;
  private readonly end: EpochMs;
  /** Most pods ask for the same and were there all the time: lines that are alike are one, and are never written to. */
  private readonly constants = new Map<string, Float64Array>();
  constructor(private readonly input: TreeInput) {
    const { grid, interval } = input;
    this.staleness = stalenessOf(interval);
    this.over = Math.max(grid.step, RATE_INTERVALS * interval);
    this.end = gridEnd(grid);
  }

  private constant(value: number | null, [first, last]: readonly [number, number]): Float64Array {
    const key = `${value} ${first} ${last}`;
    let line = this.constants.get(key);
    if (!line) {
      line = new Float64Array(this.input.grid.count).fill(Number.NaN);
      if (value !== null) line.fill(value, first, last);
      this.constants.set(key, line);
    }
    return line;
  }
  private isAlive(span: PodSpan): boolean {
    return presentAt(span, this.end) && !hasEnded(span.pod);
  }

  private container(span: PodSpan, container: PodSpan['pod']['containers'][number]): UsageNode {
    const { input, staleness, over } = this;
    const { grid } = input;
    const there = presenceOn(grid, span.from, span.to);
    const asked = hasEnded(span.pod) ? NEVER : there;
    const sample = (vital: ContainerVital) => input.containerSamples(vital, span.pod.uid, container.name);
    const from = runsSince(span, container);
    const lines = (resource: Resource, samples: Samples, use: Float64Array): UsageLines => {
      const own = amountsOf(container, resource);
      const unread = unreadOnGrid({ samples, grid, staleness, from, there });
      return {
        use,
        read: use,
        unread,
        request: this.constant(own.request ?? own.limit ?? 0, asked),
        limit: this.constant(own.limit, asked),
      };
    };
    const cpu = sample('container.cpu.time');
    const memory = sample('container.memory.working_set');
    const atEnd = { start: this.end, step: 1, count: 1 };
    const throttled = perSecondOnGrid({ samples: sample('container.cpu.throttled'), grid: atEnd, over, staleness });
    const { name } = container;
    return finish({
      level: 'container',
      identity: { name, uid: null },
      draft: {
        lines: {
          cpu: lines('cpu', cpu, perSecondOnGrid({ samples: cpu, grid, over, staleness })),
          memory: lines('memory', memory, latestOnGrid(memory, grid, staleness)),
        },
        limitIs: 'limit',
        unlimited: { cpu: name, memory: name },
        throttled: orNull(throttled[0]),
      },
      children: [],
      present: this.isAlive(span),
      pods: 0,
    });
  }

  pod(span: PodSpan): UsageNode {
    const { grid } = this.input;
    const containers = span.pod.containers.map((container) => this.container(span, container));
    const alive = this.isAlive(span);
    const draft = gather(grid, containers, 'limit');
    const asked = hasEnded(span.pod) ? NEVER : presenceOn(grid, span.from, span.to);
    for (const resource of RESOURCES) {
      const amounts = podAmounts(span.pod, resource);
      draft.lines[resource] = {
        ...draft.lines[resource],
        request: this.constant(amounts.request, asked),
        limit: this.constant(amounts.limit, asked),
      };
      draft.unlimited[resource] = amounts.unlimited;
    }
    const { name, uid } = span.pod;
    const pods = alive ? 1 : 0;
    return finish({ level: 'pod', identity: { name, uid }, draft, children: containers, present: alive, pods });
  }

  workload({ name, uid }: WorkloadRef, key: string, children: UsageNode[]): UsageNode {
    const draft = gather(this.input.grid, children, 'limit');
    const present = children.some((child) => child.present);
    return finish({
      level: 'workload',
      identity: { name, key, uid },
      draft,
      children,
      present,
      pods: podsIn(children),
    });
  }

  /** Against its quota when there is one, else against the sum of its pods' limits. */
  namespace(name: string, workloads: UsageNode[]): UsageNode {
    const { grid, quotaOf } = this.input;
    const draft = gather(grid, workloads, 'limit');
    const limitIs = { cpu: draft.limitIs, memory: draft.limitIs } as Record<Resource, LimitKind>;
    for (const resource of RESOURCES) {
      const quota = quotaOf?.(name, resource) ?? null;
      if (quota === null) continue;
      // lines may be shared with parts: they are replaced, never written to
      draft.lines[resource] = { ...draft.lines[resource], limit: new Float64Array(grid.count).fill(quota) };
      limitIs[resource] = 'quota';
    }
    return finish({
      level: 'namespace',
      identity: { name, key: name, uid: null },
      draft: { ...draft, limitIs },
      children: workloads,
      present: workloads.some((workload) => workload.present),
      pods: podsIn(workloads),
    });
  }

  /** Against what its nodes can give to pods. */
  cluster(namespaces: UsageNode[]): UsageNode {
    const { grid, nodes, cluster } = this.input;
    const draft = gather(grid, namespaces, 'allocatable');
    const accepting = nodes.filter(({ node }) => node.acceptsPods);
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
    const pods = podsIn(namespaces);
    return finish({ level: 'cluster', identity: cluster, draft, children: namespaces, present: true, pods });
  }
}

/** The pods placed on each node, ended ones apart: one pass, since there may be thousands of nodes. */
export function placedOn(pods: readonly PodSpan[]): ReadonlyMap<string, readonly PodSpan[]> {
  return groupBy(
    pods.filter(({ pod }) => pod.node !== null && !hasEnded(pod)),
    ({ pod }) => pod.node ?? '',
  );
}

/** What machines use altogether at a window's end; null where one of them was not read. Their lines are not worked out for it. */
export function machinesUse(input: UsageInput): Readonly<Record<Resource, number | null>> {
  const { grid, interval, nodes, nodeSamples } = input;
  const staleness = stalenessOf(interval);
  const at = gridEnd(grid);
  const end = { start: at, step: grid.step, count: 1 };
  const over = Math.max(grid.step, RATE_INTERVALS * interval);
  const sum = (useOf: (name: string) => number): number | null => {
    let total = 0;
    for (const span of nodes) if (presentAt(span, at)) total += useOf(span.node.name);
    return Number.isNaN(total) ? null : total;
  };
  return {
    cpu: sum(
      (name) => perSecondOnGrid({ samples: nodeSamples('node.cpu.time', name), grid: end, over, staleness })[0]!,
    ),
    memory: sum((name) => latestOnGrid(nodeSamples('node.memory.working_set', name), end, staleness)[0]!),
  };
}

/**
 * A node's own figures, against its allocatable; requests are those of the pods placed on it. `pods` are what is shown
 * of them.
 */
export function nodeUsage({
  input,
  span,
  placed,
  pods = [],
}: {
  readonly input: UsageInput;
  readonly span: NodeSpan;
  readonly placed: readonly PodSpan[];
  readonly pods?: readonly UsageNode[];
}): UsageNode {
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
  return finish({
    level: 'node',
    identity: { name: span.node.name, uid: span.node.uid },
    draft: {
      lines: {
        cpu: line(
          'cpu',
          perSecondOnGrid({ samples: input.nodeSamples('node.cpu.time', span.node.name), grid, over, staleness }),
        ),
        memory: line(
          'memory',
          latestOnGrid(input.nodeSamples('node.memory.working_set', span.node.name), grid, staleness),
        ),
      },
      limitIs: 'allocatable',
      unlimited: { cpu: null, memory: null },
      throttled: null,
    },
    children: pods,
    present: presentAt(span, gridEnd(grid)),
    pods: placed.filter((own) => presentAt(own, gridEnd(grid))).length,
  });
}

export function groupBy<T, K>(items: readonly T[], keyOf: (item: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>();
  for (const item of items) {
    const group = groups.get(keyOf(item));
    if (group) group.push(item);
    else groups.set(keyOf(item), [item]);
  }
  return groups;
}
