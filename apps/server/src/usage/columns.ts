import type { UsageColumn, UsageRow } from '@zetopsis/contract';
import { byWeight, type Finding, podFindings } from '@zetopsis/core/findings';
import { formatCount } from '@zetopsis/core/format';
import { type PodObject, workloadKey } from '@zetopsis/core/inventory';
import {
  byTightness,
  type Compared,
  comparedOf,
  comparedPerPod,
  emptyNode,
  groupOf,
  nodeUsage,
  OTHERS,
  placedOn,
  type ResourceUsage,
  type UsageLevel,
  type UsageNode,
} from '@zetopsis/core/usage';
import { type ClusterFound, findingsOfPods, type WorkloadState } from './clusterFindings.ts';
import { containersInWords, podsInWords } from './countWords.ts';
import type { Restarted } from './derived.ts';
import { nodeKey, teamKey } from './objectPaths.ts';
import type { OtherFigures } from './otherFigures.ts';
import { column, kindOfKey, NOBODYS, type RowExtra, rowOf, spareRows, type Then } from './rows.ts';
import type { SeenUsage } from './usage.service.ts';

/** A node with one of these does not run pods as it should. */
const NOT_READY: ReadonlySet<string> = new Set(['nodeNotReady', 'unknown']);

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

/** What each level of the path holds, at a window's end. Finding what is wrong is done once for the whole cluster. */
export class ClusterColumns {
  private readonly found: ClusterFound;
  private readonly podByUid: Map<string, PodObject>;

  /**
   * `other`: the same cluster in the window compared with; null when nothing is compared. `looked`: the resource beside
   * CPU and memory that is looked at.
   */
  constructor(
    private readonly usage: SeenUsage,
    private readonly at: number,
    private readonly other: SeenUsage | null = null,
    private readonly owners: Owners = NOBODY,
    private readonly looked: Looked | null = null,
  ) {
    this.found = usage.derived.findings(usage, at);
    this.podByUid = new Map(usage.view.pods.map(({ pod }) => [pod.uid, pod]));
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
  get rooms() {
    return this.found.rooms;
  }

  private row(node: UsageNode, extra: RowExtra, inside?: UsageNode): UsageRow {
    return rowOf(node, { ...extra, other: this.looked?.now.of(node, inside) ?? null });
  }
  private pairOf(node: UsageNode | undefined, inside?: UsageNode): Then | null | undefined {
    return this.other === null ? undefined : node === undefined ? null : this.thenOf(node, inside);
  }
  private thenOf(node: UsageNode, inside?: UsageNode): Then {
    return { ...comparedOf(node), other: compared(this.looked?.before?.of(node, inside) ?? null, 1) };
  }
  /** The average pod of a workload in the other window. */
  private averagePod(workload: UsageNode | undefined): Then | null | undefined {
    if (this.other === null) return undefined;
    if (workload === undefined) return null;
    const all = this.looked?.before?.of(workload) ?? null;
    return { ...comparedPerPod(workload), other: compared(all, workload.pods || workload.children.length) };
  }
  /** Children of the other window that this one does not have any more. */
  private gone(
    level: UsageLevel,
    other: readonly UsageNode[] | undefined,
    own: readonly { key: string }[],
  ): UsageRow[] {
    const here = new Set(own.map(({ key }) => key));
    return (other ?? [])
      .filter(({ key }) => !here.has(key))
      .map((node) => ({
        ...rowOf(emptyNode(level, node, this.usage.input.grid, false), {
          kind: level === 'workload' ? kindOfKey(node.key) : null,
          against: this.thenOf(node),
        }),
        pairing: 'gone',
      }));
  }

  clusterRow(): UsageRow {
    const findings = [
      ...this.found.own,
      ...this.found.nodes.flatMap((node) => node.findings),
      ...this.found.workloads.flatMap((workload) => workload.findings),
      ...this.found.bounds.flatMap((bound) => bound.findings),
    ];
    const nodes = this.usage.view.inventory.list('node');
    const ready = this.found.nodes.filter(({ findings: own }) => !own.some(({ code }) => NOT_READY.has(code)));
    return this.row(this.usage.tree, {
      findings: [...findings].sort(byWeight),
      ready: ready.length,
      desired: nodes.length,
      restarts: this.restartsIn([this.usage.tree]),
      against: this.pairOf(this.other?.tree),
    });
  }

  /** What each team owns, in sum; what nobody owns stands last. */
  teamsColumn(): UsageColumn {
    const before = new Map(this.teams(this.other?.tree.children ?? []).map((team) => [team.key, team.node]));
    const rows = this.teams(this.usage.tree.children).map(({ key, node }) =>
      this.row(node, {
        key,
        kind: 'team',
        owner: node.name,
        findings: node.children.flatMap((namespace) => this.findingsIn(namespace.key)).sort(byWeight),
        restarts: this.restartsIn(node.children),
        against: this.pairOf(before.get(key)),
      }),
    );
    return column(
      'team',
      rows,
      `${formatCount(rows.length, 'owner')} of ${formatCount(this.usage.tree.children.length, 'namespace')}`,
    );
  }
  private teams(namespaces: readonly UsageNode[]): { key: string; node: UsageNode }[] {
    const groups = new Map<string, { name: string; own: UsageNode[] }>();
    for (const namespace of namespaces) {
      const team = this.owners.ofNamespace(namespace.key);
      const key = teamKey(team?.key ?? '');
      const group = groups.get(key) ?? { name: team?.name ?? 'nobody', own: [] };
      group.own.push(namespace);
      groups.set(key, group);
    }
    return [...groups].map(([key, { name, own }]) => ({
      key,
      node: groupOf(this.usage.input.grid, 'team', { name, key }, own),
    }));
  }
  team(key: string): UsageNode | undefined {
    return this.teams(this.usage.tree.children).find((team) => team.key === teamKey(key))?.node;
  }

  namespaces(team: string | null = null): UsageColumn {
    const owned = (namespace: string) => team === null || (this.owners.ofNamespace(namespace)?.key ?? '') === team;
    const inTree = new Map(this.usage.tree.children.filter(({ key }) => owned(key)).map((node) => [node.key, node]));
    const objects = new Map(this.usage.view.inventory.list('namespace').map((object) => [object.name, object]));
    const before = new Map(this.other?.tree.children.map((node) => [node.key, node]));
    const rows = [...inTree.values()].sort(byTightness('cpu')).map((node) =>
      this.row(node, {
        findings: this.findingsIn(node.key),
        owner: this.owners.ofNamespace(node.key)?.name ?? null,
        labels: objects.get(node.key)?.labels ?? {},
        restarts: this.restartsIn([node]),
        against: this.pairOf(before.get(node.key)),
      }),
    );
    for (const { name, labels } of objects.values()) {
      if (inTree.has(name) || !owned(name)) continue;
      const empty = emptyNode('namespace', { name, key: name, uid: null }, this.usage.input.grid, true);
      rows.push(
        this.row(empty, {
          findings: this.findingsIn(name),
          owner: this.owners.ofNamespace(name)?.name ?? null,
          labels,
          against: this.pairOf(before.get(name)),
        }),
      );
    }
    if (team === null) rows.push(...this.gone('namespace', this.other?.tree.children, rows));
    // the nameless share stands last, whatever its size
    if (this.usage.others && team === null)
      rows.push(this.row(this.usage.others, { kind: 'others', against: this.pairOf(this.other?.others ?? undefined) }));
    if (team === null) rows.push(...this.spare(this.usage.tree));
    const pods = this.usage.view.inventory.list('pod');
    return column(
      'namespace',
      rows,
      pods.length === 0 && this.usage.tree.pods > 0
        ? `${formatCount(this.usage.tree.pods, 'pod')}; their states were not read yet at that time`
        : `${podsInWords(pods) || 'no pods'} · ${formatCount(this.found.workloads.length, 'workload')}`,
    );
  }

  private spare(whole: UsageNode): UsageRow[] {
    const rows = spareRows(whole, this.looked?.now.of(whole) ?? null, this.usage.input.grid);
    // of what is not asked for, nothing is asked for and not used; of what has no size, nothing is free
    return this.looked === null ? rows : rows.filter(({ kind, other }) => kind === 'free' && other?.use != null);
  }
  private restartsIn(nodes: readonly UsageNode[], pod?: UsageNode): Restarted {
    return this.usage.derived.restartsIn(this.usage, nodes, pod);
  }

  /** Of everything in a namespace, worst first. */
  findingsIn(namespace: string): Finding[] {
    const known = this.found.workloads.filter(({ workload }) => workload.namespace === namespace);
    const keys = new Set(known.map(({ key }) => key));
    const node = this.usage.tree.children.find(({ key }) => key === namespace);
    const others = (node?.children ?? [])
      .filter((child) => !keys.has(child.key))
      .flatMap((child) => findingsOfPods(this.podsOf(child), this.at, this.rooms));
    return [
      ...known.flatMap(({ findings }) => findings),
      ...others,
      ...this.found.bounds.filter((bound) => bound.namespace === namespace).flatMap(({ findings }) => findings),
      ...(this.found.asking.get(namespace) ?? []),
    ].sort(byWeight);
  }
  private podsOf(workload: UsageNode): PodObject[] {
    return workload.children.filter(({ present }) => present).flatMap(({ uid }) => this.podByUid.get(uid ?? '') ?? []);
  }

  workloadsOf(namespace: string): UsageColumn {
    const node = this.usage.tree.children.find(({ key }) => key === namespace);
    const known = new Map(
      this.found.workloads
        .filter(({ workload }) => workload.namespace === namespace)
        .map((state) => [state.key, state]),
    );
    const before = new Map(this.before(namespace)?.children.map((child) => [child.key, child]));
    const children = [...(node?.children ?? [])].sort(byTightness('cpu'));
    const rows = children.map((child) => {
      const state = known.get(child.key);
      const against = this.pairOf(before.get(child.key));
      return state
        ? this.workloadRow(child, state, against)
        : this.row(child, {
            kind: kindOfKey(child.key),
            findings: findingsOfPods(this.podsOf(child), this.at, this.rooms),
            owner: this.owners.ofWorkload(namespace, child.key),
            restarts: this.restartsIn([child]),
            against,
          });
    });
    // asked for, and nothing there: no pod, now or in the window
    const inTree = new Set(children.map(({ key }) => key));
    for (const [key, state] of known)
      if (!inTree.has(key)) rows.push(this.workloadRow(this.emptyWorkload(state), state, this.pairOf(before.get(key))));
    rows.push(...this.gone('workload', this.before(namespace)?.children, rows));
    const sum = (pick: (state: WorkloadState) => number | null) =>
      [...known.values()].reduce((total, state) => total + (pick(state) ?? 0), 0);
    return column(
      'workload',
      rows,
      `${sum(({ ready }) => ready)} of ${formatCount(
        sum(({ desired }) => desired),
        'pod',
      )} ready`,
    );
  }
  emptyWorkload({ workload, key }: WorkloadState): UsageNode {
    return emptyNode('workload', { name: workload.name, key, uid: workload.uid }, this.usage.input.grid, true);
  }
  private workloadRow(
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
      owner: this.owners.ofWorkload(workload.namespace ?? '', node.key),
      labels: workload.labels,
      restarts: this.restartsIn([node]),
      against,
    });
    return { ...row, present: true };
  }
  private before(namespace: string): UsageNode | undefined {
    return this.other?.tree.children.find(({ key }) => key === namespace);
  }

  podsColumn(namespace: string, workload: string): UsageColumn {
    const node = this.find(namespace, workload);
    const then = this.before(namespace)?.children.find(({ key }) => key === workload);
    const against = this.averagePod(then);
    const rows = [...(node?.children ?? [])]
      .sort((a, b) => Number(b.present) - Number(a.present) || byTightness('cpu')(a, b))
      .map((child) => this.podRow(child, against));
    const pods = node ? this.podsOf(node) : [];
    const nodes = new Set(pods.flatMap((pod) => pod.node ?? []));
    const zones = new Set(
      this.usage.view.inventory
        .list('node')
        .filter(({ name }) => nodes.has(name))
        .map(({ zone }) => zone),
    );
    return column(
      'pod',
      rows,
      rows.length === 0
        ? 'none in this window'
        : [podsInWords(pods), `on ${formatCount(nodes.size, 'node')}, ${formatCount(zones.size, 'zone')}`]
            .filter((words) => words !== '')
            .join(' · '),
    );
  }

  private podRow(node: UsageNode, against: Then | null | undefined): UsageRow {
    const pod = this.podByUid.get(node.uid ?? '');
    return this.row(node, {
      findings: pod && node.present ? podFindings(pod, this.at, this.rooms) : [],
      labels: pod?.labels ?? {},
      restarts: this.restartsIn([node]),
      against,
    });
  }

  /** `pod` is of the first path, or of the second. Containers are compared when both windows have the pod. */
  containers(pod: UsageNode | undefined): UsageColumn {
    const object = this.podByUid.get(pod?.uid ?? '');
    const then = pod?.uid == null ? undefined : podIn(this.other?.tree, pod.uid);
    const rows = [...(pod?.children ?? [])].sort(byTightness('cpu')).map((child) =>
      this.row(
        child,
        {
          kind: object?.containers.find(({ name }) => name === child.name)?.role ?? null,
          restarts: this.restartsIn([child], pod),
          against: this.pairOf(
            then?.children.find(({ key }) => key === child.key),
            then,
          ),
        },
        pod,
      ),
    );
    const words = [containersInWords(object?.containers ?? []), object?.node ? `on ${object.node}` : ''];
    return column('container', rows, words.filter((part) => part !== '').join(' · '));
  }

  // ---- the second path: cluster, node, pod, container -------------------------------------------------------------

  nodesColumn(): UsageColumn {
    const states = new Map(this.found.nodes.map(({ node, findings }) => [node.name, findings]));
    const { other } = this;
    const placedThen = placedOn(other?.input.pods ?? []);
    const then = new Map(
      other?.view.nodes.map((span) => [
        span.node.name,
        nodeUsage(other.input, span, placedThen.get(span.node.name) ?? []),
      ]),
    );
    const labels = new Map(this.usage.view.nodes.map((span) => [span.node.name, span.node.labels]));
    const nodes = this.nodeUsages();
    const rows = [...nodes]
      .sort((a, b) => Number(b.present) - Number(a.present) || byTightness('cpu')(a, b))
      .map((node) =>
        this.row(node, {
          key: nodeKey(node.name),
          kind: 'node',
          findings: states.get(node.name) ?? [],
          labels: labels.get(node.name) ?? {},
          restarts: this.restartsIn(node.children.filter(({ key }) => key !== OTHERS)),
          against: this.pairOf(then.get(node.name)),
        }),
      );
    const present = nodes.filter((node) => node.present);
    const ready = present.filter(({ name }) => !(states.get(name) ?? []).some(({ code }) => NOT_READY.has(code)));
    const calm = [...states.values()].filter((findings) => findings.length === 0).length;
    return column(
      'node',
      rows,
      `${formatCount(present.length, 'node')}, ${ready.length} ready · ${calm} without findings`,
    );
  }
  nodeUsages(): UsageNode[] {
    return this.usage.derived.nodeUsages(this.usage);
  }
  node(name: string): UsageNode | undefined {
    return this.usage.derived.node(this.usage, name);
  }
  podsOfNode(name: string): UsageColumn {
    const workloads = new Map(this.usage.view.pods.map(({ pod, workload }) => [pod.uid, workload]));
    const node = this.node(name);
    const rows = [...(node?.children ?? [])]
      .sort((a, b) => Number(b.present) - Number(a.present) || byTightness('cpu')(a, b))
      .map((child) => {
        if (child.key === OTHERS) return this.row(child, { kind: 'others' }, node);
        const workload = workloads.get(child.uid ?? '');
        const then =
          workload && this.before(workload.namespace)?.children.find(({ key }) => key === workloadKey(workload));
        return this.podRow(child, this.averagePod(then || undefined));
      });
    if (node) rows.push(...this.spare(node));
    const own = rows.filter(({ kind, present }) => !NOBODYS.has(kind ?? '') && present);
    const others = rows.length > 0 && rows.some(({ kind }) => kind === 'others');
    return column('pod', rows, `${formatCount(own.length, 'pod')} now${others ? ' of yours' : ''}`);
  }
  podOnNode(node: string, key: string): UsageNode | undefined {
    return this.node(node)?.children.find((child) => child.key === key);
  }

  find(namespace: string, workload: string): UsageNode | undefined {
    return this.usage.tree.children.find(({ key }) => key === namespace)?.children.find(({ key }) => key === workload);
  }
}

/** Of the other window, shared by so many. */
function compared(figures: ResourceUsage | null, among: number): Compared | null {
  if (figures === null) return null;
  const share = (value: number | null) => (value === null ? null : value / among);
  return { use: share(figures.use), mean: share(figures.mean), peak: share(figures.peak) };
}

function podIn(tree: UsageNode | undefined, uid: string): UsageNode | undefined {
  for (const namespace of tree?.children ?? [])
    for (const workload of namespace.children) {
      const pod = workload.children.find((child) => child.uid === uid);
      if (pod) return pod;
    }
  return undefined;
}
