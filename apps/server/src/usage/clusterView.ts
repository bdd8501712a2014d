import {
  CHANGING_KINDS,
  INVENTORY_KINDS,
  type InventoryKind,
  type JobObject,
  type ObjectChange,
  objectChanges,
  type PodObject,
  versionsOf,
  type WorkloadObject,
} from '@zetopsis/core/inventory';
import type { EpochMs } from '@zetopsis/core/units';
import type { NodeSpan, PodSpan } from '@zetopsis/core/usage';
import { ClusterInventory } from '../inventory/clusterInventory.ts';
import type { InventoryService } from '../inventory/inventory.service.ts';
import { inPieces } from '../platform/inPieces.ts';

/** A cluster over a window: what was there in it, and its state at the window's end. */
export interface ClusterView {
  readonly inventory: ClusterInventory;
  readonly pods: readonly PodSpan[];
  readonly nodes: readonly NodeSpan[];
  /** Replica sets known in the window: they tell of rollouts. */
  readonly replicaSets: readonly WorkloadObject[];
  /** Jobs known in the window: runs. */
  readonly jobs: readonly JobObject[];
  /** Every state a pod had in the window: they tell of restarts. */
  readonly podStates: readonly PodObject[];
  /** What else was changed in the window. */
  readonly changes: readonly ObjectChange[];
}

interface Spanned<T> {
  object: T;
  from: EpochMs;
  to: EpochMs | null;
}

/** One span per object: from its creation to its end, with its newest state. Versions come oldest first. */
async function spansOf<T extends { uid: string; createdAt: EpochMs }>(
  versions: readonly { object: T; from: EpochMs; to: EpochMs | null }[],
): Promise<Spanned<T>[]> {
  const spans = new Map<string, Spanned<T>>();
  await inPieces(versions, ({ object, from, to }) => {
    const known = spans.get(object.uid);
    if (known) {
      known.object = object;
      known.to = to;
    } else spans.set(object.uid, { object, from: Math.min(object.createdAt, from), to });
  });
  return [...spans.values()];
}

const CHANGING = new Set<InventoryKind>(CHANGING_KINDS);
/** What a window that reaches to now needs of the past; everything else is in memory. */
const NEEDED: readonly InventoryKind[] = ['pod', 'replica set', 'job', ...CHANGING_KINDS];

/** `live`: the window reaches to now, and what the inventory holds in memory is its end. */
export async function clusterView(
  inventory: InventoryService,
  connectionId: string,
  from: EpochMs,
  to: EpochMs,
  live: boolean,
): Promise<ClusterView> {
  const versions = live
    ? await inventory.withinUntilNow(connectionId, NEEDED, from)
    : await inventory.within(connectionId, INVENTORY_KINDS, from, to);
  const podVersions = versionsOf(versions, 'pod');
  const sets = (await spansOf(versionsOf(versions, 'replica set'))).map(({ object }) => object);
  const jobs = (await spansOf(versionsOf(versions, 'job'))).map(({ object }) => object);
  const current = inventory.cluster(connectionId);
  const state = live ? current : new ClusterInventory(connectionId, () => undefined);
  if (!live)
    await inPieces(versions, (version) => {
      if (version.from <= to && (version.to === null || version.to > to)) state.restore(version.object, version.from);
    });
  // owners of pods that are gone may be gone themselves: every replica set and job of the window can be asked
  const owners = new ClusterInventory(connectionId, () => undefined);
  for (const object of [...sets, ...jobs]) owners.restore(object, 0);
  for (const object of [...current.list('replica set'), ...current.list('job')]) owners.restore(object, 0);
  const pods: PodSpan[] = [];
  await inPieces(await spansOf(podVersions), ({ object, from: begun, to: ended }) => {
    pods.push({ pod: object, workload: owners.workloadOf(object), from: begun, to: ended });
  });
  return {
    inventory: state,
    pods,
    nodes: (await spansOf(versionsOf(versions, 'node'))).map((span) => ({
      node: span.object,
      from: span.from,
      to: span.to,
    })),
    replicaSets: sets,
    jobs,
    podStates: podVersions.map(({ object }) => object),
    changes: objectChanges(versions.filter(({ object }) => CHANGING.has(object.kind))).filter(
      ({ at }) => at >= from && at <= to,
    ),
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
    jobs: view.jobs.filter(seen),
    podStates: view.podStates.filter(seen),
    changes: view.changes.filter((change) => change.kind === 'node' || seen(change)),
  };
}
