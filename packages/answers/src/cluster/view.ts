import type { ClusterInventory, JobObject, ObjectChange, PodObject, WorkloadObject } from '@zetopsis/core/inventory';
import type { EpochMs } from '@zetopsis/core/units';
import type { NodeSpan, PodSpan } from '@zetopsis/core/usage';

/** A state of a pod, and when it was in it; `to` null: it still is. */
export interface PodState {
  readonly pod: PodObject;
  readonly from: EpochMs;
  readonly to: EpochMs | null;
}
/** A cluster over a window: what was there in it, and its state at the window's end. */
export interface ClusterView {
  readonly inventory: ClusterInventory;
  readonly pods: readonly PodSpan[];
  readonly nodes: readonly NodeSpan[];
  /** Replica sets known in the window: they tell of rollouts. */
  readonly replicaSets: readonly WorkloadObject[];
  /** Jobs known in the window: runs. */
  readonly jobs: readonly JobObject[];
  /** Every state a pod had in the window, oldest first: they tell of restarts, and of containers by state. */
  readonly podStates: readonly PodState[];
  /** What else was changed in the window. */
  readonly changes: readonly ObjectChange[];
}

/** What somebody may see of it: nodes, and what is in the namespaces shown. */
export function narrowView(view: ClusterView, sees: (namespace: string) => boolean): ClusterView {
  const seen = ({ namespace }: { namespace: string | null }) => namespace !== null && sees(namespace);
  return {
    inventory: view.inventory.narrowed(sees),
    pods: view.pods.filter(({ pod }) => seen(pod)),
    nodes: view.nodes,
    replicaSets: view.replicaSets.filter(seen),
    jobs: view.jobs.filter(seen),
    podStates: view.podStates.filter(({ pod }) => seen(pod)),
    changes: view.changes.filter((change) => change.kind === 'node' || seen(change)),
  };
}
