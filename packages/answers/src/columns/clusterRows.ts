import { type PathOf, partOf, readWorkloadKey, type UsageRow } from '@zetopsis/contract';
import { byWeight, type Finding } from '@zetopsis/core/findings';
import { type AccessoryKind, type PodObject, type WorkloadObject, workloadKey } from '@zetopsis/core/inventory';
import type { DurationMs, EpochMs, Resource } from '@zetopsis/core/units';
import {
  type Compared,
  comparedOf,
  comparedPerPod,
  emptyNode,
  groupBy,
  groupOf,
  machinesUse,
  type ResourceUsage,
  type UsageLevel,
  type UsageNode,
} from '@zetopsis/core/usage';
import type { BoundState, ClusterFound, WorkloadState } from '../findings/index.ts';
import type { Restarted, SeenUsage } from '../usage/index.ts';
import type { OtherFigures } from './otherFigures.ts';
import { type Itself, type RowExtra, rowOf, spareRows, type Then } from './rows.ts';

/** Who owns what of a cluster. */
export interface Owners {
  readonly ofNamespace: (namespace: string) => { readonly key: string; readonly name: string } | null;
  readonly ofWorkload: (namespace: string, workload: string) => string | null;
}
/** A resource in both windows. */
interface Looked {
  readonly now: OtherFigures;
  readonly before: OtherFigures | null;
}
const NOBODY: Owners = { ofNamespace: () => null, ofWorkload: () => null };

/** Of a workload in the tree. */
export const kindOf = ({ key }: UsageNode): string | null => readWorkloadKey(key)?.kind ?? null;

/** Makes a row of every object of a cluster, at a window's end. Finding what is wrong is done once for the whole cluster. */
export class ClusterRows {
  protected readonly found: ClusterFound;
  protected readonly podByUid: Map<string, PodObject>;

  /**
   * `other`: the same cluster in the window compared with; null when nothing is compared. `looked`: the resource beside
   * CPU and memory that is looked at.
   */
  constructor(
    protected readonly usage: SeenUsage,
    protected readonly at: EpochMs,
    protected readonly other: SeenUsage | null = null,
    protected readonly owners: Owners = NOBODY,
    private readonly looked: Looked | null = null,
  ) {
    this.found = usage.details.findings(usage, at);
    this.podByUid = new Map(usage.view.pods.map(({ pod }) => [pod.uid, pod]));
  }

  private bySpace: {
    readonly workloads: ReadonlyMap<string, readonly WorkloadState[]>;
    readonly bounds: ReadonlyMap<string, readonly BoundState[]>;
  } | null = null;
  private spaces() {
    this.bySpace ??= {
      workloads: groupBy(this.found.workloads, ({ workload }) => workload.namespace ?? ''),
      bounds: groupBy(this.found.bounds, ({ namespace }) => namespace),
    };
    return this.bySpace;
  }
  protected workloadsIn(namespace: string): readonly WorkloadState[] {
    return this.spaces().workloads.get(namespace) ?? [];
  }
  get workloads() {
    return this.found.workloads;
  }
  get nodes() {
    return this.found.nodes;
  }
  get bounds() {
    return this.found.bounds;
  }
  get asking() {
    return this.found.asking;
  }
  /** Of the cluster itself. */
  get own() {
    return this.found.own;
  }
  get judge() {
    return this.found.judge;
  }
  private looseByPlace: ReadonlyMap<string, readonly Finding[]> | null = null;
  /** Of pods whose workload is no object of ours. */
  looseOf(namespace: string, workload: string): readonly Finding[] {
    this.looseByPlace ??= new Map(
      this.loose.map(({ workload: own, findings }) => [`${own.namespace}/${workloadKey(own)}`, findings]),
    );
    return this.looseByPlace.get(`${namespace}/${workload}`) ?? [];
  }
  boundOf(kind: AccessoryKind, namespace: string, name: string): BoundState | undefined {
    return this.spaces()
      .bounds.get(namespace)
      ?.find((own) => own.kind === kind && own.name === name);
  }
  get loose() {
    return this.found.loose;
  }

  protected row(node: UsageNode, extra: RowExtra, inside?: UsageNode): UsageRow {
    return rowOf(node, { ...extra, other: this.looked?.now.of(node, inside) ?? null });
  }
  protected ageOf(object: { readonly createdAt: EpochMs } | undefined): DurationMs | null {
    return object === undefined ? null : Math.max(0, this.at - object.createdAt);
  }
  protected pairOf(node: UsageNode | undefined, inside?: UsageNode): Then | null | undefined {
    return this.other === null ? undefined : node === undefined ? null : this.thenOf(node, inside);
  }
  private thenOf(node: UsageNode, inside?: UsageNode): Then {
    return { ...comparedOf(node), other: compared(this.looked?.before?.of(node, inside) ?? null, 1) };
  }
  /** The average pod of a workload in the other window. */
  protected averagePod(workload: UsageNode | undefined): Then | null | undefined {
    if (this.other === null) return undefined;
    if (workload === undefined) return null;
    const all = this.looked?.before?.of(workload) ?? null;
    return { ...comparedPerPod(workload), other: compared(all, workload.pods || workload.children.length) };
  }
  /** Children of the other window that this one does not have any more. */
  protected gone(
    level: UsageLevel,
    other: readonly UsageNode[] | undefined,
    own: readonly { key: string }[],
  ): UsageRow[] {
    const here = new Set(own.map(({ key }) => key));
    return (other ?? [])
      .filter(({ key }) => !here.has(key))
      .map((node) => ({
        ...rowOf(emptyNode({ level, identity: node, grid: this.usage.input.grid, present: false }), {
          kind: level === 'workload' ? kindOf(node) : null,
          against: this.thenOf(node),
        }),
        pairing: 'gone',
      }));
  }

  /** What nodes use beside their pods: their own programs, and what runs there that is no pod. Null where it is not known. */
  private itselfOf(whole: UsageNode): Itself | null {
    const itself = this.ownUseOf(whole);
    return itself === null || (itself.use.cpu === null && itself.use.memory === null) ? null : itself;
  }
  private ownUseOf(whole: UsageNode): Itself | null {
    const sum = (nodes: readonly UsageNode[], resource: Resource): number | null =>
      nodes.reduce<number | null>((total, { usage }) => {
        const { use } = usage[resource];
        return total === null || use === null ? null : total + use;
      }, 0);
    const less = (all: number | null, pods: number | null) =>
      all === null || pods === null ? null : Math.max(0, all - pods);
    if (whole.level === 'node') {
      const pods = whole.children.filter(({ present }) => present);
      const own = (resource: Resource) => less(whole.usage[resource].use, sum(pods, resource));
      return { name: 'the node itself', use: { cpu: own('cpu'), memory: own('memory') }, within: true };
    }
    if (whole.level !== 'cluster') return null;
    if (this.usage.view.nodes.length === 0) return null;
    // of all pods, whoever may see them: what is left names nobody
    const machines = machinesUse(this.usage.input);
    const own = (resource: Resource) => less(machines[resource], this.usage.whole.usage[resource].use);
    return { name: 'the nodes themselves', use: { cpu: own('cpu'), memory: own('memory') }, within: false };
  }
  protected spare(whole: UsageNode): UsageRow[] {
    const rows = spareRows(whole, this.looked?.now.of(whole) ?? null, this.usage.input.grid, this.itselfOf(whole));
    // of what is not asked for, nothing is asked for and not used; of what has no size, nothing is free
    return this.looked === null ? rows : rows.filter(({ kind, other }) => kind === 'free' && other?.use != null);
  }
  protected restartsIn(nodes: readonly UsageNode[], pod?: UsageNode): Restarted {
    return this.usage.details.restartsIn(this.usage, nodes, pod);
  }

  /** Of everything in a namespace, worst first. */
  findingsIn(namespace: string): Finding[] {
    const known = this.workloadsIn(namespace);
    const keys = new Set(known.map(({ key }) => key));
    const node = this.usage.tree.children.find(({ key }) => key === namespace);
    const others = (node?.children ?? [])
      .filter((child) => !keys.has(child.key))
      .flatMap((child) => this.looseOf(namespace, child.key));
    return [
      ...known.flatMap(({ findings }) => findings),
      ...others,
      ...(this.spaces().bounds.get(namespace) ?? []).flatMap(({ findings }) => findings),
      ...(this.found.asking.get(namespace) ?? []),
    ].sort(byWeight);
  }
  protected podsOf(workload: UsageNode): PodObject[] {
    return workload.children.filter(({ present }) => present).flatMap(({ uid }) => this.podByUid.get(uid ?? '') ?? []);
  }

  emptyWorkload({ workload, key }: WorkloadState): UsageNode {
    return emptyNode({
      level: 'workload',
      identity: { name: workload.name, key, uid: workload.uid },
      grid: this.usage.input.grid,
      present: true,
    });
  }
  protected workloadRow(
    node: UsageNode,
    { workload, findings, ready, desired }: WorkloadState,
    against: Then | null | undefined,
  ): UsageRow {
    // what runs to an end is there between its runs, too
    const row = this.row(node, {
      kind: workload.kind,
      findings,
      ready,
      desired,
      age: this.ageOf(workload),
      owner: this.owners.ofWorkload(workload.namespace ?? '', node.key),
      labels: workload.labels,
      restarts: this.restartsIn([node]),
      against,
    });
    return { ...row, present: true };
  }
  protected before(namespace: string): UsageNode | undefined {
    return this.other?.tree.children.find(({ key }) => key === namespace);
  }

  private ends: ReadonlyMap<string, EpochMs> | null = null;
  /** When a pod or a node was last there; null while it is. */
  protected endOf(uid: string | null): EpochMs | null {
    this.ends ??= new Map(
      [
        ...this.usage.view.pods.map(({ pod, to }) => [pod.uid, to] as const),
        ...this.usage.view.nodes.map(({ node, to }) => [node.uid, to] as const),
      ].flatMap(([key, to]) => (to === null || to > this.at ? [] : [[key, to] as const])),
    );
    return this.ends.get(uid ?? '') ?? null;
  }

  protected podRow(node: UsageNode, against: Then | null | undefined): UsageRow {
    const pod = this.podByUid.get(node.uid ?? '');
    return this.row(node, {
      // one that ended is still an object, until it is removed
      findings: pod && this.usage.view.inventory.get(pod.uid) ? this.judge.pod(pod) : [],
      labels: pod?.labels ?? {},
      age: this.ageOf(pod),
      goneAt: this.endOf(node.uid),
      restarts: this.restartsIn([node]),
      against,
    });
  }

  nodeUsages(): UsageNode[] {
    return this.usage.details.nodeUsages(this.usage);
  }
  node(name: string): UsageNode | undefined {
    return this.usage.details.node(this.usage, name);
  }
  podOnNode({
    node,
    namespace,
    pod,
  }: {
    readonly node: string;
    readonly namespace: string;
    readonly pod: string;
  }): UsageNode | undefined {
    const key = partOf.podOnNode(namespace, pod);
    return this.node(node)?.children.find((child) => child.key === key);
  }
  /** The pod that a path names, or that its container is in. */
  podAt({ namespace, workload, node, pod }: PathOf<'pod'> | PathOf<'container'>): UsageNode | undefined {
    return workload === null
      ? this.podOnNode({ node: node ?? '', namespace, pod })
      : this.find(namespace, workloadKey(workload))?.children.find(({ key }) => key === pod);
  }

  find(namespace: string, workload: string): UsageNode | undefined {
    const there = this.usage.tree.children.find(({ key }) => key === namespace);
    return there?.children.find(({ key }) => key === workload) ?? this.partOfDeployment(namespace, workload);
  }
  /** A replica set that a deployment made: its pods stand below the deployment. */
  replicaSet(namespace: string, key: string): WorkloadObject | undefined {
    return this.usage.view.replicaSets.find(
      (set) => set.owner !== null && set.namespace === namespace && workloadKey(set) === key,
    );
  }
  private partOfDeployment(namespace: string, key: string): UsageNode | undefined {
    const set = this.replicaSet(namespace, key);
    if (!set?.owner) return undefined;
    const { grid } = this.usage.input;
    const above = this.usage.tree.children
      .find((own) => own.key === namespace)
      ?.children.find(({ uid }) => uid === set.owner?.uid);
    const nodes = (above?.children ?? []).filter(({ uid }) => this.podByUid.get(uid ?? '')?.owner?.uid === set.uid);
    const identity = { name: set.name, key, uid: set.uid };
    return nodes.length === 0
      ? emptyNode({ level: 'workload', identity, grid, present: this.usage.view.inventory.get(set.uid) !== undefined })
      : groupOf({ grid, level: 'workload', identity, nodes });
  }
}

/** Of the other window, shared by so many. */
function compared(figures: ResourceUsage | null, among: number): Compared | null {
  if (figures === null) return null;
  const share = (value: number | null) => (value === null ? null : value / among);
  return { use: share(figures.use), mean: share(figures.mean), peak: share(figures.peak) };
}
