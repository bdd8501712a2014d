import { partOf, type UsageColumn, type UsageRow } from '@zetopsis/contract';
import { byWeight, isUnfit } from '@zetopsis/core/findings';
import { formatCount } from '@zetopsis/core/format';
import { workloadKey } from '@zetopsis/core/inventory';
import { byTightness, emptyNode, groupOf, nodeUsage, OTHERS, placedOn, type UsageNode } from '@zetopsis/core/usage';
import type { WorkloadState } from '../findings/index.ts';
import { ClusterRows, kindOf } from './clusterRows.ts';
import { containersInWords, podsInWords } from './countWords.ts';
import { column, NOBODYS } from './rows.ts';

/** What each level of the path holds. */
export class ClusterColumns extends ClusterRows {
  clusterRow(): UsageRow {
    const findings = [
      ...this.found.own,
      ...this.found.nodes.flatMap((node) => node.findings),
      ...this.found.workloads.flatMap((workload) => workload.findings),
      ...this.found.bounds.flatMap((bound) => bound.findings),
    ];
    const nodes = this.usage.view.inventory.list('node');
    const ready = this.found.nodes.filter(({ findings: own }) => !own.some(({ code }) => isUnfit(code)));
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
      const key = partOf.team(team?.key ?? '');
      const group = groups.get(key) ?? { name: team?.name ?? 'nobody', own: [] };
      group.own.push(namespace);
      groups.set(key, group);
    }
    return [...groups].map(([key, { name, own }]) => ({
      key,
      node: groupOf({ grid: this.usage.input.grid, level: 'team', identity: { name, key }, nodes: own }),
    }));
  }
  team(key: string): UsageNode | undefined {
    return this.teams(this.usage.tree.children).find((team) => team.key === partOf.team(key))?.node;
  }

  namespaces(team: string | null = null): UsageColumn {
    const owned = (namespace: string) => team === null || (this.owners.ofNamespace(namespace)?.key ?? '') === team;
    const inTree = new Map(this.usage.tree.children.filter(({ key }) => owned(key)).map((node) => [node.key, node]));
    const objects = new Map(this.usage.view.inventory.list('namespace').map((object) => [object.name, object]));
    const before = new Map(this.other?.tree.children.map((node) => [node.key, node]));
    const rows = [...inTree.values()].sort(byTightness('cpu')).map((node) =>
      this.row(node, {
        findings: this.findingsIn(node.key),
        age: this.ageOf(objects.get(node.key)),
        owner: this.owners.ofNamespace(node.key)?.name ?? null,
        labels: objects.get(node.key)?.labels ?? {},
        restarts: this.restartsIn([node]),
        against: this.pairOf(before.get(node.key)),
      }),
    );
    for (const { name, labels, createdAt } of objects.values()) {
      if (inTree.has(name) || !owned(name)) continue;
      const empty = emptyNode({
        level: 'namespace',
        identity: { name, key: name, uid: null },
        grid: this.usage.input.grid,
        present: true,
      });
      rows.push(
        this.row(empty, {
          findings: this.findingsIn(name),
          age: this.ageOf({ createdAt }),
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

  workloadsOf(namespace: string): UsageColumn {
    const node = this.usage.tree.children.find(({ key }) => key === namespace);
    const known = new Map(this.workloadsIn(namespace).map((state) => [state.key, state]));
    const before = new Map(this.before(namespace)?.children.map((child) => [child.key, child]));
    const children = [...(node?.children ?? [])].sort(byTightness('cpu'));
    const rows = children.map((child) => {
      const state = known.get(child.key);
      const against = this.pairOf(before.get(child.key));
      return state
        ? this.workloadRow(child, state, against)
        : this.row(child, {
            kind: kindOf(child),
            findings: this.looseOf(namespace, child.key),
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

  /** `pod` is of the first path, or of the second. Containers are compared when both windows have the pod. */
  containers(pod: UsageNode | undefined): UsageColumn {
    const object = this.podByUid.get(pod?.uid ?? '');
    const then = pod?.uid == null ? undefined : podIn(this.other?.tree, pod.uid);
    const rows = [...(pod?.children ?? [])].sort(byTightness('cpu')).map((child) =>
      this.row(
        child,
        {
          kind: object?.containers.find(({ name }) => name === child.name)?.role ?? null,
          age: this.ageOf(object),
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
        nodeUsage({ input: other.input, span, placed: placedThen.get(span.node.name) ?? [] }),
      ]),
    );
    const objects = new Map(this.usage.view.nodes.map((span) => [span.node.name, span.node]));
    const nodes = this.nodeUsages();
    const rows = [...nodes]
      .sort((a, b) => Number(b.present) - Number(a.present) || byTightness('cpu')(a, b))
      .map((node) =>
        this.row(node, {
          key: partOf.node(node.name),
          kind: 'node',
          findings: states.get(node.name) ?? [],
          labels: objects.get(node.name)?.labels ?? {},
          age: this.ageOf(objects.get(node.name)),
          goneAt: this.endOf(node.uid),
          restarts: this.restartsIn(node.children.filter(({ key }) => key !== OTHERS)),
          against: this.pairOf(then.get(node.name)),
        }),
      );
    const present = nodes.filter((node) => node.present);
    const ready = present.filter(({ name }) => !(states.get(name) ?? []).some(({ code }) => isUnfit(code)));
    const calm = [...states.values()].filter((findings) => findings.length === 0).length;
    return column(
      'node',
      rows,
      `${formatCount(present.length, 'node')}, ${ready.length} ready · ${calm} without findings`,
    );
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
}

function podIn(tree: UsageNode | undefined, uid: string): UsageNode | undefined {
  for (const namespace of tree?.children ?? [])
    for (const workload of namespace.children) {
      const pod = workload.children.find((child) => child.uid === uid);
      if (pod) return pod;
    }
  return undefined;
}
