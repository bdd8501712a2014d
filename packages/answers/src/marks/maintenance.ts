import type { ObjectVersion } from '@zetopsis/core/inventory';
import type { EpochMs } from '@zetopsis/core/units';

/** A stretch in which a node took no new pods. */
export interface Maintenance {
  readonly node: string;
  readonly from: EpochMs;
  readonly to: EpochMs;
}
/** When which node took no new pods within a time, as their versions prove it; oldest first. */
export function maintenanceOf(versions: Iterable<ObjectVersion>, from: EpochMs, to: EpochMs): Maintenance[] {
  const newest = new Map<string, { node: string; from: EpochMs; to: EpochMs }>();
  const found: Maintenance[] = [];
  const sorted = [...versions].sort((a, b) => a.from - b.from);
  for (const { object, from: since, to: until } of sorted) {
    if (object.kind !== 'node' || object.acceptsPods) continue;
    const own = { node: object.name, from: Math.max(since, from), to: Math.min(until ?? to, to) };
    if (own.to <= own.from) continue;
    // whatever else changed meanwhile
    const before = newest.get(own.node);
    if (before && before.to >= own.from) before.to = Math.max(before.to, own.to);
    else {
      newest.set(own.node, own);
      found.push(own);
    }
  }
  return found;
}
