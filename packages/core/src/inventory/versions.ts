import type { EpochMs } from '../units/index.ts';
import { equal } from './equal.ts';
import type { InventoryKind, InventoryObject } from './objects.ts';

/**
 * One state an object had. It began between `fromEarliest` and `from` and ended between `toEarliest` and `to`; the two
 * differ only where the connection was broken meanwhile. Open versions have no end.
 */
export interface ObjectVersion {
  readonly object: InventoryObject;
  readonly fromEarliest: EpochMs;
  readonly from: EpochMs;
  readonly toEarliest: EpochMs | null;
  readonly to: EpochMs | null;
}

export type VersionOf<K extends InventoryKind> = ObjectVersion & { readonly object: InventoryObject & { kind: K } };
export const versionsOf = <K extends InventoryKind>(versions: readonly ObjectVersion[], kind: K): VersionOf<K>[] =>
  versions.filter((version): version is VersionOf<K> => version.object.kind === kind);

/** Who wrote last is no state of its own, nor are the figures that an autoscaler sees at the moment. */
const lasting = (object: InventoryObject) => ({
  ...object,
  changedBy: null,
  ...(object.kind === 'autoscaler' ? { seen: [] } : {}),
});
/**
 * Whether two readings of an object differ in anything worth keeping. Heartbeats are not part of our objects at all; some
 * objects are written every few seconds with the same content.
 */
export function sameState(a: InventoryObject, b: InventoryObject): boolean {
  return equal(lasting(a), lasting(b));
}

/** What is known of one object at a moment: a state for certain, or a state that may have begun or ended already. */
export type StateAt =
  | { readonly known: 'certain'; readonly object: InventoryObject }
  | { readonly known: 'between'; readonly candidates: readonly (InventoryObject | null)[] };

/** `versions` of one uid in order of time. Null when it did not exist then. */
export function stateAt(versions: readonly ObjectVersion[], at: EpochMs): StateAt | null {
  const candidates: (InventoryObject | null)[] = [];
  for (const version of versions) {
    if (at >= version.from && (version.toEarliest === null || at < version.toEarliest)) {
      return { known: 'certain', object: version.object };
    }
    const beganMaybe = at >= version.fromEarliest && at < version.from;
    const endedMaybe =
      version.toEarliest !== null && version.to !== null && at >= version.toEarliest && at < version.to;
    if (beganMaybe || endedMaybe) candidates.push(version.object);
  }
  if (candidates.length === 0) return null;
  // the first state may not have begun yet, the last one may have ended already
  const first = versions[0];
  const last = versions.at(-1);
  if (first && at < first.from) candidates.unshift(null);
  if (last && last.to !== null && last.toEarliest !== null && at >= last.toEarliest) candidates.push(null);
  return { known: 'between', candidates };
}
