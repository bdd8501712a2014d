import type { ClusterView } from '@zetopsis/answers/cluster';
import {
  CHANGING_KINDS,
  ClusterInventory,
  INVENTORY_KINDS,
  type InventoryKind,
  type InventoryObject,
  objectChanges,
  type PodObject,
  versionsOf,
} from '@zetopsis/core/inventory';
import type { EpochMs } from '@zetopsis/core/units';
import type { PodSpan } from '@zetopsis/core/usage';
import { inPieces, Pieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import type { InventoryService } from '../../keeping/inventory/inventory.service.ts';

interface Version<T> {
  readonly object: T;
  readonly from: EpochMs;
  readonly to: EpochMs | null;
}

/** One span per object: from its creation to its end, with its newest state. Versions come oldest first. */
async function spansOf<T extends { uid: string; createdAt: EpochMs }>(
  versions: readonly Version<T>[],
  pieces: Pieces,
): Promise<Version<T>[]> {
  const spans = new Map<string, { -readonly [Key in keyof Version<T>]: Version<T>[Key] }>();
  const note = ({ object, from, to }: Version<T>) => {
    const known = spans.get(object.uid);
    if (known) {
      known.object = object;
      known.to = to;
    } else spans.set(object.uid, { object, from: Math.min(object.createdAt, from), to });
  };
  await inPieces(versions, note, pieces);
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
  const pieces = new Pieces(); // one for all of these walks: many short ones are as long as a long one
  const spans = <T extends { uid: string; createdAt: EpochMs }>(of: readonly Version<T>[]) => spansOf(of, pieces);
  const podVersions = versionsOf(versions, 'pod');
  const sets = (await spans(versionsOf(versions, 'replica set'))).map(({ object }) => object);
  const jobs = (await spans(versionsOf(versions, 'job'))).map(({ object }) => object);
  const current = inventory.cluster(connectionId);
  const state = live ? current : new ClusterInventory(connectionId, () => undefined);
  if (!live) {
    const restore = (version: Version<InventoryObject>) => {
      if (version.from <= to && (version.to === null || version.to > to)) state.restore(version.object, version.from);
    };
    await inPieces(versions, restore, pieces);
    for (const event of await inventory.saidBefore(connectionId, to)) state.events.note(event);
  }
  // owners of pods that are gone may be gone themselves: every replica set and job of the window can be asked
  const owners = new ClusterInventory(connectionId, () => undefined);
  const known = [...sets, ...jobs, ...current.list('replica set'), ...current.list('job')];
  await inPieces(known, (object) => owners.restore(object, 0), pieces);
  const pods: PodSpan[] = [];
  const own = ({ object, from: begun, to: ended }: Version<PodObject>) =>
    pods.push({ pod: object, workload: owners.workloadOf(object), from: begun, to: ended });
  await inPieces(await spans(podVersions), own, pieces);
  const changing = versions.filter(({ object }) => CHANGING.has(object.kind));
  const changes = await yieldedInPieces(objectChanges(changing), pieces);
  return {
    inventory: state,
    pods,
    nodes: (await spans(versionsOf(versions, 'node'))).map((span) => ({
      node: span.object,
      from: span.from,
      to: span.to,
    })),
    replicaSets: sets,
    jobs,
    podStates: podVersions.map(({ object: pod, from: begun, to: ended }) => ({ pod, from: begun, to: ended })),
    changes: changes.filter(({ at }) => at >= from && at <= to),
  };
}
