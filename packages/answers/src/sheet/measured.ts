import type { ObjectPath, PathOf, SheetAnswer } from '@zetopsis/contract';
import { byWeight, type Finding, type ToldCriticality } from '@zetopsis/core/findings';
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
  gridEnd,
  perPodLine,
  type UsageNode,
} from '@zetopsis/core/usage';
import type { ClusterColumns } from '../columns/index.ts';
import type { SeenUsage } from '../usage/index.ts';
import { addressWords, containerFacts, type Facts, setFacts, upFor } from './facts.ts';
import { scaledKey } from './scaledFlows.ts';

/** An object that uses something, at the end of a window. */
export interface MeasuredObject {
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

const nothingMore = { containers: [], workload: null, of: null, kind: null, createdAt: null, endedAt: null } as const;

/** Null when nothing of that name was there in the window. */
export function find({
  usage,
  columns,
  path,
  to,
}: {
  readonly usage: SeenUsage;
  readonly columns: ClusterColumns;
  readonly path: ObjectPath;
  readonly to: number;
}): MeasuredObject | null {
  switch (path.is) {
    case 'cluster':
      return findCluster(usage, columns);
    case 'team':
      return findTeam(usage, columns, path.team);
    case 'node':
      return findNode(usage, columns, path.node);
    case 'namespace':
      return findNamespace(usage, columns, path.namespace);
    case 'workload':
      return findWorkload(usage, columns, path);
    case 'pod':
      return findPod({ usage, columns, podNode: columns.podAt(path), containerName: undefined, to });
    case 'container':
      return findPod({ usage, columns, podNode: columns.podAt(path), containerName: path.container, to });
    case 'everything':
    case 'host':
    case 'persistent volume':
    case 'accessory':
      return null;
  }
}

function findCluster({ tree, view, input }: SeenUsage, columns: ClusterColumns): MeasuredObject {
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
      ...containerFacts(view.pods, gridEnd(input.grid)),
    ],
  };
}

function findTeam({ view }: SeenUsage, columns: ClusterColumns, team: string): MeasuredObject | null {
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

function findNamespace({ tree, view, input }: SeenUsage, columns: ClusterColumns, name: string): MeasuredObject | null {
  const object = view.inventory.list('namespace').find((namespace) => namespace.name === name);
  const node =
    tree.children.find(({ key }) => key === name) ??
    (object
      ? emptyNode({
          level: 'namespace',
          identity: { name, key: name, uid: object.uid },
          grid: input.grid,
          present: true,
        })
      : undefined);
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
      ...columns.loose
        .filter(({ workload }) => workload.namespace === name)
        .flatMap(({ workload, findings }) =>
          findings.map((finding) => ({ ...finding, reason: `${workload.name}: ${finding.reason}` })),
        ),
      ...columns.bounds.filter(({ namespace }) => namespace === name).flatMap(({ findings }) => findings),
      ...(columns.asking.get(name) ?? []),
    ].sort(byWeight),
    facts: [
      { name: 'pods', text: String(node.pods) },
      { name: 'workloads', text: String(own.length) },
      ...containerFacts(
        view.pods.filter(({ workload }) => workload.namespace === name),
        gridEnd(input.grid),
      ),
      ...criticalityFacts(columns.judge.criticalityOf(name, null)),
    ],
  };
}

function findWorkload(
  { view }: SeenUsage,
  columns: ClusterColumns,
  { namespace, workload: named }: PathOf<'workload'>,
): MeasuredObject | null {
  const key = workloadKey(named);
  const state = columns.workloads.find(({ workload, key: own }) => workload.namespace === namespace && own === key);
  const node = columns.find(namespace, key) ?? (state ? columns.emptyWorkload(state) : undefined);
  if (!node) return null;
  const uids = new Map(node.children.map((child) => [child.uid, child.present]));
  const pods = view.pods.filter(({ pod }) => uids.has(pod.uid)).map(({ pod }) => pod);
  const present = pods.filter(({ uid }) => uids.get(uid) === true);
  const set = state ? undefined : columns.replicaSet(namespace, key);
  if (set)
    return {
      ...nothingMore,
      level: 'workload',
      node,
      pods,
      kind: named.kind,
      createdAt: set.createdAt,
      endedAt: null,
      findings: present.flatMap((pod) => [...columns.judge.pod(pod)]),
      facts: [...setFacts(set), ...workloadFacts(set)],
      workload: set,
    };
  return {
    ...nothingMore,
    level: 'workload',
    node,
    pods,
    kind: named.kind,
    createdAt: state?.workload.createdAt ?? null,
    findings: [
      ...(state?.findings ?? columns.looseOf(namespace, key)),
      // what scales it has its own sheet, and is told here as well
      ...view.inventory
        .list('autoscaler')
        .filter((scaler) => scaler.namespace === namespace && scaledKey(scaler) === key)
        .flatMap(({ name }) => columns.boundOf('autoscaler', namespace, name)?.findings ?? []),
    ],
    facts: state
      ? [...workloadFacts(state.workload), ...criticalityFacts(columns.judge.criticalityOf(namespace, state.workload))]
      : [{ name: 'pods', text: String(present.length) }],
    workload: state?.workload ?? null,
  };
}

/** Of what nobody says anything nothing is said. */
const criticalityFacts = ({ is, because }: ToldCriticality): Facts =>
  because === null ? [] : [{ name: 'criticality', text: `${is}, ${because}` }];

function workloadFacts(workload: AnyWorkload): Facts {
  const images = workload.images.map(({ container, image }) => ({
    name: `image of ${container}`,
    text: image,
    as: 'code' as const,
  }));
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

function findNode({ input, view }: SeenUsage, columns: ClusterColumns, name: string): MeasuredObject | null {
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
      ...containerFacts(
        view.pods.filter(({ pod }) => own.has(pod.uid)),
        gridEnd(input.grid),
      ),
      { name: 'takes new pods', text: object.acceptsPods ? 'yes' : 'no' },
      { name: 'address', text: addressWords(object.address, object.port), as: 'code' },
      ...upFor(input, name),
      ...(input.pods.length === view.pods.length ? [] : [{ name: 'shown', text: 'your pods; others as one share' }]),
    ],
  };
}

function findPod({
  usage: { view },
  columns,
  podNode,
  containerName,
  to,
}: {
  readonly usage: SeenUsage;
  readonly columns: ClusterColumns;
  readonly podNode: UsageNode | undefined;
  readonly containerName: string | undefined;
  readonly to: number;
}): MeasuredObject | null {
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
    findings: span.to === null || span.to > to ? [...columns.judge.pod(pod)] : [],
    facts: [
      { name: 'node', text: pod.node ?? 'not placed yet' },
      { name: 'phase', text: span.to !== null && span.to <= to ? `gone, was ${pod.phase}` : pod.phase },
      { name: 'age', text: formatDuration((span.to ?? to) - pod.createdAt) },
      { name: 'address', text: addressWords(pod.address ?? null, null), as: 'code' },
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
export function counterpart({
  other,
  columns,
  found,
  path,
  to,
}: {
  readonly other: SeenUsage;
  readonly columns: ClusterColumns;
  readonly found: MeasuredObject;
  readonly path: ObjectPath;
  readonly to: number;
}): Counterpart | null {
  if (found.level === 'pod') {
    const then = found.of === null ? undefined : columns.find(found.of.namespace, workloadKey(found.of));
    if (!then) return null;
    return { figures: comparedPerPod(then), cpu: perPodLine(then, 'cpu'), memory: perPodLine(then, 'memory') };
  }
  const then = find({ usage: other, columns, path, to });
  if (!then) return null;
  return { figures: comparedOf(then.node), cpu: then.node.lines.cpu.use, memory: then.node.lines.memory.use };
}
