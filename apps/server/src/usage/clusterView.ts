import { byWeight, type Finding, nodeFindings, podFindings, workloadFindings } from '@zetopsis/core/findings';
import { isWorkload, type PodObject, type WorkloadObject, workloadKey } from '@zetopsis/core/inventory';
import type { EpochMs } from '@zetopsis/core/units';
import type { NodeSpan, PodSpan } from '@zetopsis/core/usage';
import { ClusterInventory } from '../inventory/clusterInventory.ts';
import type { InventoryService } from '../inventory/inventory.service.ts';

/** A cluster over a window: what was there in it, and its state at the window's end. */
export interface ClusterView {
  readonly inventory: ClusterInventory;
  readonly pods: readonly PodSpan[];
  readonly nodes: readonly NodeSpan[];
  /** Replica sets known in the window: they tell of rollouts. */
  readonly replicaSets: readonly WorkloadObject[];
  /** Every state a pod had in the window: they tell of restarts. */
  readonly podStates: readonly PodObject[];
}

interface Spanned<T> {
  object: T;
  from: EpochMs;
  to: EpochMs | null;
}

/** One span per object: from its creation to its end, with its newest state. Versions come oldest first. */
function spansOf<T extends { uid: string; createdAt: EpochMs }>(
  versions: readonly { object: T; from: EpochMs; to: EpochMs | null }[],
): Spanned<T>[] {
  const spans = new Map<string, Spanned<T>>();
  for (const { object, from, to } of versions) {
    const known = spans.get(object.uid);
    if (known) Object.assign(known, { object, to });
    else spans.set(object.uid, { object, from: Math.min(object.createdAt, from), to });
  }
  return [...spans.values()];
}

/** `live`: the window reaches to now, and what the inventory holds in memory is its end. */
export async function clusterView(
  inventory: InventoryService,
  connectionId: string,
  from: EpochMs,
  to: EpochMs,
  live: boolean,
): Promise<ClusterView> {
  const [podVersions, nodeVersions, setVersions] = await Promise.all([
    inventory.within(connectionId, 'pod', from, to),
    inventory.within(connectionId, 'node', from, to),
    inventory.within(connectionId, 'replica set', from, to),
  ]);
  const sets = spansOf(setVersions);
  const current = inventory.cluster(connectionId);
  const state = live ? current : new ClusterInventory(connectionId, () => undefined);
  if (!live) {
    const others = await Promise.all([
      inventory.within(connectionId, 'namespace', to, to),
      inventory.within(connectionId, 'deployment', to, to),
      inventory.within(connectionId, 'daemon set', to, to),
    ]);
    for (const version of [...podVersions, ...nodeVersions, ...setVersions, ...others.flat()]) {
      if (version.from <= to && (version.to === null || version.to > to)) state.restore(version.object, version.from);
    }
  }
  // owners of pods that are gone may be gone themselves: every replica set of the window can be asked
  const owners = new ClusterInventory(connectionId, () => undefined);
  for (const { object } of sets) owners.restore(object, 0);
  for (const object of current.list('replica set')) owners.restore(object, 0);
  return {
    inventory: state,
    pods: spansOf(podVersions).map((span) => ({
      pod: span.object,
      workload: owners.workloadOf(span.object),
      from: span.from,
      to: span.to,
    })),
    nodes: spansOf(nodeVersions).map((span) => ({ node: span.object, from: span.from, to: span.to })),
    replicaSets: sets.map(({ object }) => object),
    podStates: podVersions.map(({ object }) => object),
  };
}

/** What somebody may see of it: nodes, and what is in the namespaces shown. */
export function narrowView(view: ClusterView, sees: (namespace: string) => boolean): ClusterView {
  const seen = ({ namespace }: { namespace: string | null }) => namespace !== null && sees(namespace);
  return {
    inventory: view.inventory.narrowed(sees),
    pods: view.pods.filter(({ pod }) => seen(pod)),
    nodes: view.nodes,
    replicaSets: view.replicaSets.filter(seen),
    podStates: view.podStates.filter(seen),
  };
}

const workloadsOf = (inventory: ClusterInventory): WorkloadObject[] =>
  [...inventory.list('deployment'), ...inventory.list('daemon set'), ...inventory.list('replica set')].filter(
    isWorkload,
  );

export interface WorkloadState {
  readonly workload: WorkloadObject;
  readonly key: string;
  readonly findings: readonly Finding[];
}

/** Findings of every workload and node at the window's end. */
export function clusterFindings(inventory: ClusterInventory, at: EpochMs) {
  const workloads = workloadsOf(inventory).map((workload): WorkloadState => {
    const key = workloadKey(workload);
    return { workload, key, findings: workloadFindings(workload, inventory.podsOf(workload.namespace ?? '', key), at) };
  });
  const nodes = inventory.list('node').map((node) => ({ node, findings: nodeFindings(node) }));
  return { workloads, nodes };
}

/** Findings of pods whose workload is no object of ours (stateful sets, jobs): their pods speak for them. */
export function findingsOfPods(pods: readonly PodObject[], at: EpochMs): Finding[] {
  return pods.flatMap((pod) => podFindings(pod, at)).sort(byWeight);
}
