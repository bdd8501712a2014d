import type { SheetAnswer } from '@zetopsis/contract';
import { autoscalerFindings, byWeight, type Finding, podFindings } from '@zetopsis/core/findings';
import { formatDuration } from '@zetopsis/core/format';
import {
  type AnyWorkload,
  type ContainerObject,
  isKeeper,
  type PodObject,
  type WorkloadRef,
  workloadKey,
} from '@zetopsis/core/inventory';
import {
  type ComparedBoth,
  comparedOf,
  comparedPerPod,
  emptyNode,
  perPodLine,
  type UsageNode,
} from '@zetopsis/core/usage';
import { findingsOfPods } from './clusterFindings.ts';
import type { ClusterColumns } from './columns.ts';
import { nodeOf, readPodKey, teamOf } from './objectPaths.ts';
import { kindOfKey } from './rows.ts';
import { scaledKey } from './scaledFlows.ts';
import type { SeenUsage } from './usage.service.ts';

/** An object that uses something, at the end of a window. */
export interface Found {
  readonly level: Exclude<SheetAnswer['level'], 'object'>;
  readonly node: UsageNode;
  readonly pods: readonly PodObject[];
  readonly kind: string | null;
  readonly createdAt: number | null;
  readonly endedAt: number | null;
  readonly findings: readonly Finding[];
  readonly facts: SheetAnswer['facts'];
  readonly containers: readonly ContainerObject[];
  /** The workload itself. */
  readonly workload: AnyWorkload | null;
  /** Of a pod or container: what it belongs to. */
  readonly of: WorkloadRef | null;
}
type Facts = SheetAnswer['facts'];

const nothingMore = { containers: [], workload: null, of: null, kind: null, createdAt: null, endedAt: null } as const;

/** Null when nothing of that name was there in the window. */
export function find(usage: SeenUsage, columns: ClusterColumns, path: readonly string[], to: number): Found | null {
  const [, place, workload, pod, container] = path;
  if (place === undefined) return findCluster(usage, columns);
  const team = teamOf(place);
  if (team !== null) return findTeam(usage, columns, team);
  const node = nodeOf(place);
  if (node !== null) {
    if (workload === undefined) return findNode(usage, columns, node);
    const key = readPodKey(workload);
    return key ? findPod(usage, columns, columns.podOnNode(node, workload), pod, to) : null;
  }
  if (workload === undefined) return findNamespace(usage, columns, place);
  if (pod === undefined) return findWorkload(usage, columns, place, workload, to);
  return findPod(
    usage,
    columns,
    columns.find(place, workload)?.children.find(({ key }) => key === pod),
    container,
    to,
  );
}

function findCluster({ tree, view }: SeenUsage, columns: ClusterColumns): Found {
  const named = (name: string, [first]: readonly Finding[]) =>
    first ? [{ ...first, reason: `${name}: ${first.reason}` }] : [];
  const calm = columns.nodes.filter(({ findings }) => findings.length === 0).length;
  return {
    ...nothingMore,
    level: 'cluster',
    node: tree,
    pods: view.pods.map(({ pod }) => pod),
    findings: [
      ...columns.own,
      ...columns.nodes.flatMap(({ node, findings }) => named(node.name, findings)),
      ...columns.workloads
        .filter(({ because }) => because === null)
        .flatMap(({ workload, findings }) => named(workload.name, findings)),
      ...columns.bounds.flatMap(({ namespace, findings }) => named(namespace, findings)),
    ].sort(byWeight),
    facts: [
      { name: 'nodes', text: `${columns.nodes.length}, ${calm} without findings` },
      { name: 'pods', text: String(tree.pods) },
    ],
  };
}

function findTeam({ view }: SeenUsage, columns: ClusterColumns, team: string): Found | null {
  const node = columns.team(team);
  if (!node) return null;
  const own = new Set(node.children.map(({ key }) => key));
  return {
    ...nothingMore,
    level: 'team',
    node,
    pods: view.pods.filter(({ workload }) => own.has(workload.namespace)).map(({ pod }) => pod),
    findings: [...own]
      .flatMap((namespace) =>
        columns.findingsIn(namespace).map((finding) => ({ ...finding, reason: `${namespace}: ${finding.reason}` })),
      )
      .sort(byWeight),
    facts: [
      { name: 'namespaces', text: [...own].join(', ') },
      { name: 'pods', text: String(node.pods) },
    ],
  };
}

function findNamespace({ tree, view, input }: SeenUsage, columns: ClusterColumns, name: string): Found | null {
  const object = view.inventory.list('namespace').find((namespace) => namespace.name === name);
  const node =
    tree.children.find(({ key }) => key === name) ??
    (object ? emptyNode('namespace', { name, key: name, uid: object.uid }, input.grid, true) : undefined);
  if (!node) return null;
  const own = columns.workloads.filter(({ workload }) => workload.namespace === name);
  return {
    ...nothingMore,
    level: 'namespace',
    node,
    pods: view.pods.filter(({ workload }) => workload.namespace === name).map(({ pod }) => pod),
    createdAt: object?.createdAt ?? null,
    findings: [
      ...own.flatMap(({ workload, findings }) =>
        findings.map((finding) => ({ ...finding, reason: `${workload.name}: ${finding.reason}` })),
      ),
      ...columns.bounds.filter(({ namespace }) => namespace === name).flatMap(({ findings }) => findings),
      ...(columns.asking.get(name) ?? []),
    ].sort(byWeight),
    facts: [
      { name: 'pods', text: String(node.pods) },
      { name: 'workloads', text: String(own.length) },
    ],
  };
}

function findWorkload(
  { view }: SeenUsage,
  columns: ClusterColumns,
  namespace: string,
  key: string,
  to: number,
): Found | null {
  const state = columns.workloads.find(({ workload, key: own }) => workload.namespace === namespace && own === key);
  const node = columns.find(namespace, key) ?? (state ? columns.emptyWorkload(state) : undefined);
  if (!node) return null;
  const uids = new Map(node.children.map((child) => [child.uid, child.present]));
  const pods = view.pods.filter(({ pod }) => uids.has(pod.uid)).map(({ pod }) => pod);
  const present = pods.filter(({ uid }) => uids.get(uid) === true);
  return {
    ...nothingMore,
    level: 'workload',
    node,
    pods,
    kind: state?.workload.kind ?? kindOfKey(key),
    createdAt: state?.workload.createdAt ?? null,
    findings: [
      ...(state?.findings ?? findingsOfPods(present, to, columns.rooms)),
      // what scales it has its own sheet, and is told here as well
      ...view.inventory
        .list('autoscaler')
        .filter((scaler) => scaler.namespace === namespace && scaledKey(scaler) === key)
        .flatMap(autoscalerFindings),
    ],
    facts: state ? workloadFacts(state.workload) : [{ name: 'pods', text: String(present.length) }],
    workload: state?.workload ?? null,
  };
}

function workloadFacts(workload: AnyWorkload): Facts {
  const images = workload.images.map(({ container, image }) => ({ name: `image of ${container}`, text: image }));
  const changed = workload.changedBy ? [{ name: 'last changed by', text: workload.changedBy.who }] : [];
  if (isKeeper(workload))
    return [
      { name: 'ready', text: `${workload.ready} of ${workload.desired}` },
      { name: 'updated', text: `${workload.updated} of ${workload.desired}` },
      ...images,
      ...changed,
    ];
  if (workload.kind === 'cron job')
    return [
      { name: 'schedule', text: `${workload.schedule}${workload.zone === null ? '' : ` in ${workload.zone}`}` },
      ...(workload.suspended ? [{ name: 'suspended', text: 'yes, no run begins' }] : []),
      ...images,
      ...changed,
    ];
  return [...images, ...changed];
}

function findNode({ input, view }: SeenUsage, columns: ClusterColumns, name: string): Found | null {
  const node = columns.node(name);
  const span = view.nodes.find((own) => own.node.name === name);
  if (!node || !span) return null;
  const { node: object } = span;
  const own = new Set(node.children.map(({ uid }) => uid));
  return {
    ...nothingMore,
    level: 'node',
    node,
    pods: view.pods.filter(({ pod }) => own.has(pod.uid)).map(({ pod }) => pod),
    kind: 'node',
    createdAt: object.createdAt,
    endedAt: span.to,
    findings: columns.nodes.find((state) => state.node.uid === object.uid)?.findings ?? [],
    facts: [
      { name: 'zone', text: object.zone ?? 'none named' },
      { name: 'node class', text: object.nodeClass ?? 'none named' },
      {
        name: 'pods',
        text: `${node.pods}${object.allocatable.pods === null ? '' : ` of ${object.allocatable.pods} it has room for`}`,
      },
      { name: 'takes new pods', text: object.acceptsPods ? 'yes' : 'no' },
      ...(input.pods.length === view.pods.length ? [] : [{ name: 'shown', text: 'your pods; others as one share' }]),
    ],
  };
}

function findPod(
  { view }: SeenUsage,
  columns: ClusterColumns,
  podNode: UsageNode | undefined,
  containerName: string | undefined,
  to: number,
): Found | null {
  const span = view.pods.find(({ pod }) => pod.uid === podNode?.uid);
  if (!podNode || !span) return null;
  const { pod } = span;
  const node = containerName === undefined ? podNode : podNode.children.find(({ key }) => key === containerName);
  if (!node) return null;
  const container = pod.containers.find(({ name }) => name === containerName);
  return {
    level: containerName === undefined ? 'pod' : 'container',
    node,
    pods: [pod],
    kind: container?.role ?? null,
    createdAt: pod.createdAt,
    endedAt: span.to,
    findings: span.to === null || span.to > to ? podFindings(pod, to, columns.rooms) : [],
    facts: [
      { name: 'node', text: pod.node ?? 'not placed yet' },
      { name: 'phase', text: pod.phase },
      { name: 'age', text: formatDuration((span.to ?? to) - pod.createdAt) },
    ],
    containers: container ? [container] : pod.containers,
    workload: null,
    of: span.workload,
  };
}

export interface Counterpart {
  readonly figures: ComparedBoth;
  readonly cpu: Float64Array;
  readonly memory: Float64Array;
}

/** The same object in the window compared with; pods by the average pod of their workload (design/usage.md). */
export function counterpart(
  other: SeenUsage,
  columns: ClusterColumns,
  found: Found,
  path: readonly string[],
  to: number,
): Counterpart | null {
  if (found.level === 'pod') {
    const then = found.of === null ? undefined : columns.find(found.of.namespace, workloadKey(found.of));
    if (!then) return null;
    return { figures: comparedPerPod(then), cpu: perPodLine(then, 'cpu'), memory: perPodLine(then, 'memory') };
  }
  const then = find(other, columns, path, to);
  if (!then) return null;
  return { figures: comparedOf(then.node), cpu: then.node.lines.cpu.use, memory: then.node.lines.memory.use };
}
