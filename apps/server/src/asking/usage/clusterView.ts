import type { ClusterView } from '@zetopsis/answers/cluster';
import {
  CHANGING_KINDS,
  ClusterInventory,
  INVENTORY_KINDS,
  type InventoryKind,
  objectChanges,
  versionsOf,
} from '@zetopsis/core/inventory';
import type { EpochMs } from '@zetopsis/core/units';
import type { PodSpan } from '@zetopsis/core/usage';
import { inPieces } from '../../ground/platform/inPieces.ts';
import type { InventoryService } from '../../keeping/inventory/inventory.service.ts';

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
export async function clusterView({
  inventory,
  connectionId,
  from,
  to,
  live,
}: {
  readonly inventory: InventoryService;
  readonly connectionId: string;
  readonly from: EpochMs;
  readonly to: EpochMs;
  readonly live: boolean;
}): Promise<ClusterView> {
  const versions = live
    ? await inventory.withinUntilNow(connectionId, NEEDED, from)
    : await inventory.within({ connectionId, kinds: INVENTORY_KINDS, from, to });
  const podVersions = versionsOf(versions, 'pod');
  const sets = (await spansOf(versionsOf(versions, 'replica set'))).map(({ object }) => object);
  const jobs = (await spansOf(versionsOf(versions, 'job'))).map(({ object }) => object);
  const current = inventory.cluster(connectionId);
  const state = live ? current : new ClusterInventory(connectionId, () => undefined);
  if (!live) {
    await inPieces(versions, (version) => {
      if (version.from <= to && (version.to === null || version.to > to)) state.restore(version.object, version.from);
    });
    for (const event of await inventory.saidBefore(connectionId, to)) state.events.note(event);
  }
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
