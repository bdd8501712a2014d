import type { UsageColumn, UsageRow } from '@zetopsis/contract';
import { type Finding, podFindings, worstSeverity } from '@zetopsis/core/findings';
import { formatCount } from '@zetopsis/core/format';
import type { PodObject, WorkloadObject } from '@zetopsis/core/inventory';
import { byTightness, type ResourceUsage, type UsageNode } from '@zetopsis/core/usage';
import { clusterFindings, findingsOfPods } from './clusterView.ts';
import type { SeenUsage } from './usage.service.ts';

const MOST_ROWS = 500;
const NO_FIGURES: ResourceUsage = {
  use: null,
  peak: null,
  request: null,
  limit: null,
  limitIs: 'none',
  unlimited: null,
  tightness: null,
  heading: null,
};

interface RowExtra {
  readonly kind?: string | null;
  readonly findings?: readonly Finding[];
  readonly ready?: number | null;
  readonly desired?: number | null;
}

export function rowOf(node: UsageNode, extra: RowExtra = {}): UsageRow {
  const findings = extra.findings ?? [];
  return {
    key: node.key,
    name: node.name,
    kind: extra.kind ?? null,
    severity: worstSeverity(findings),
    finding: findings[0]?.reason ?? null,
    present: node.present,
    pods: node.pods,
    ready: extra.ready ?? null,
    desired: extra.desired ?? null,
    usage: node.usage,
    throttled: node.throttled,
  };
}

/** A workload that has no pod, now or in the window: asked for, and nothing there. */
function emptyRow(workload: WorkloadObject, key: string, findings: readonly Finding[]): UsageRow {
  return {
    key,
    name: workload.name,
    kind: workload.kind,
    severity: worstSeverity(findings),
    finding: findings[0]?.reason ?? null,
    present: true,
    pods: 0,
    ready: workload.ready,
    desired: workload.desired,
    usage: { cpu: NO_FIGURES, memory: NO_FIGURES },
    throttled: null,
  };
}

const column = (level: UsageColumn['level'], rows: UsageRow[], summary: string): UsageColumn => ({
  level,
  rows: rows.slice(0, MOST_ROWS),
  left: Math.max(0, rows.length - MOST_ROWS),
  summary,
});

/** What each level of the path holds, at a window's end. Finding what is wrong is done once for the whole cluster. */
export class ClusterColumns {
  private readonly found: ReturnType<typeof clusterFindings>;
  private readonly podByUid: Map<string, PodObject>;

  constructor(
    private readonly usage: SeenUsage,
    private readonly at: number,
  ) {
    this.found = clusterFindings(usage.view.inventory, at);
    this.podByUid = new Map(usage.view.pods.map(({ pod }) => [pod.uid, pod]));
  }

  get workloads() {
    return this.found.workloads;
  }
  get nodes() {
    return this.found.nodes;
  }

  clusterRow(): UsageRow {
    const findings = [
      ...this.found.nodes.flatMap((node) => node.findings),
      ...this.found.workloads.flatMap((workload) => workload.findings),
    ];
    const nodes = this.usage.view.inventory.list('node');
    const ready = nodes.filter(
      (node) =>
        !this.found.nodes
          .find(({ node: own }) => own.uid === node.uid)
          ?.findings.some(({ code }) => code === 'nodeNotReady' || code === 'unknown'),
    );
    return rowOf(this.usage.tree, { findings, ready: ready.length, desired: nodes.length });
  }

  namespaces(): UsageColumn {
    const inTree = new Map(this.usage.tree.children.map((node) => [node.key, node]));
    const rows = [...inTree.values()]
      .sort(byTightness('cpu'))
      .map((node) => rowOf(node, { findings: this.findingsIn(node) }));
    for (const namespace of this.usage.view.inventory.list('namespace')) {
      if (inTree.has(namespace.name)) continue;
      const own = this.found.workloads.filter(({ workload }) => workload.namespace === namespace.name);
      rows.push({
        ...emptyNamespace(namespace.name),
        severity: worstSeverity(own.flatMap(({ findings }) => findings)),
      });
    }
    // the nameless share stands last, whatever its size
    if (this.usage.others) rows.push(rowOf(this.usage.others, { kind: 'others' }));
    const pods = this.usage.view.inventory.list('pod');
    const waiting = pods.filter(({ phase }) => phase === 'pending').length;
    const running = pods.filter(({ phase }) => phase === 'running').length;
    return column(
      'namespace',
      rows,
      `${formatCount(running, 'pod')} run${running === 1 ? 's' : ''}, ${waiting} wait · ${formatCount(this.found.workloads.length, 'workload')}`,
    );
  }

  private findingsIn(namespace: UsageNode): Finding[] {
    const known = this.found.workloads.filter(({ workload }) => workload.namespace === namespace.name);
    const keys = new Set(known.map(({ key }) => key));
    const others = namespace.children
      .filter((child) => !keys.has(child.key))
      .flatMap((child) => findingsOfPods(this.podsOf(child), this.at));
    return [...known.flatMap(({ findings }) => findings), ...others];
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
    const children = [...(node?.children ?? [])].sort(byTightness('cpu'));
    const rows = children.map((child) => {
      const state = known.get(child.key);
      if (state)
        return rowOf(child, {
          kind: state.workload.kind,
          findings: state.findings,
          ready: state.workload.ready,
          desired: state.workload.desired,
        });
      return rowOf(child, {
        kind: child.key.slice(0, child.key.indexOf(':')).replace('-', ' '),
        findings: findingsOfPods(this.podsOf(child), this.at),
      });
    });
    const inTree = new Set(children.map(({ key }) => key));
    for (const [key, { workload, findings }] of known)
      if (!inTree.has(key)) rows.push(emptyRow(workload, key, findings));
    const sum = (pick: (workload: WorkloadObject) => number) =>
      [...known.values()].reduce((total, { workload }) => total + pick(workload), 0);
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
    const rows = [...(node?.children ?? [])]
      .sort((a, b) => Number(b.present) - Number(a.present) || byTightness('cpu')(a, b))
      .map((child) => {
        const pod = this.podByUid.get(child.uid ?? '');
        return rowOf(child, { findings: pod && child.present ? podFindings(pod, this.at) : [] });
      });
    const nodes = new Set((node ? this.podsOf(node) : []).map((pod) => pod.node));
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
        : `on ${formatCount(nodes.size, 'node')}, ${formatCount(zones.size, 'zone')}`,
    );
  }

  containers(namespace: string, workload: string, podName: string): UsageColumn {
    const node = this.find(namespace, workload)?.children.find(({ key }) => key === podName);
    const pod = this.podByUid.get(node?.uid ?? '');
    const rows = [...(node?.children ?? [])]
      .sort(byTightness('cpu'))
      .map((child) => rowOf(child, { kind: pod?.containers.find(({ name }) => name === child.name)?.role ?? null }));
    return column('container', rows, pod?.node ? `on ${pod.node}` : '');
  }

  find(namespace: string, workload: string): UsageNode | undefined {
    return this.usage.tree.children.find(({ key }) => key === namespace)?.children.find(({ key }) => key === workload);
  }
}

const emptyNamespace = (name: string): UsageRow => ({
  key: name,
  name,
  kind: null,
  severity: null,
  finding: null,
  present: true,
  pods: 0,
  ready: null,
  desired: null,
  usage: { cpu: NO_FIGURES, memory: NO_FIGURES },
  throttled: null,
});
