import { pathOfObject } from '@zetopsis/contract';
import { CHANGING_KINDS, changeWords, type InventoryKind, type ObjectVersion } from '@zetopsis/core/inventory';
import type { ConditionOf, ObjectChangeKind } from '@zetopsis/core/rules';
import { type EpochMs, MINUTE, SECOND } from '@zetopsis/core/units';
import { firstNotBefore, type Occurrence } from './occurrences.ts';

/** What people set up; pods, replica sets and runs come and go by themselves. */
const WATCHED_KINDS: readonly InventoryKind[] = [...CHANGING_KINDS, 'namespace', 'persistent volume'];
export const kindsWatched = ({ kinds }: ConditionOf['object change']): readonly InventoryKind[] =>
  kinds.length === 0 ? WATCHED_KINDS : kinds;

/** An object that was made so shortly before it was first seen was made then; else it was there before. */
const SEEN_WITHIN = 10 * MINUTE;
type ChangedObject = {
  readonly is: ObjectChangeKind;
  readonly at: EpochMs;
  readonly words: string;
  readonly version: ObjectVersion;
};

/**
 * Objects that were made, changed or removed, as their versions prove it: each stands for a while. Versions come oldest first.
 * What was removed and made anew, by whatever hand, is over.
 */
export function* changedObjects(
  cluster: string,
  versions: Iterable<ObjectVersion>,
  condition: ConditionOf['object change'],
): Generator<Occurrence> {
  const kinds = new Set(kindsWatched(condition));
  const wanted = new Set(condition.changes);
  const stands = condition.standsSeconds * SECOND;
  const objects = [...byUid(versions, kinds).values()];
  /** Ascending. */
  const madeAt = new Map<string, EpochMs[]>();
  for (const [first] of objects) {
    const name = nameKey(first!);
    const made = madeAt.get(name);
    if (made) made.push(first!.object.createdAt);
    else madeAt.set(name, [first!.object.createdAt]);
  }
  for (const made of madeAt.values()) made.sort((a, b) => a - b);
  for (const { is, at, words, version } of changesIn(objects)) {
    if (!wanted.has(is)) continue;
    const { kind, namespace, name, changedBy, uid } = version.object;
    if (kind === 'pod' || kind === 'endpoint slice') continue;
    const anew = is === 'removed' ? firstFrom(madeAt.get(nameKey(version)) ?? [], at - MINUTE) : undefined;
    const by = is === 'changed' && changedBy !== null && changedBy.who !== null ? `, by ${changedBy.who}` : '';
    yield {
      key: `${is} ${kind} ${namespace ?? ''} ${name} ${is === 'removed' ? '' : uid}`,
      path: pathOfObject({ cluster, kind, namespace, name }),
      name: `${kind} ${name}`,
      severity: is === 'removed' ? 'critical' : 'warning',
      from: at,
      to: Math.min(at + stands, anew === undefined ? Number.POSITIVE_INFINITY : Math.max(at, anew)),
      reason: `It was ${is}${words === '' ? '' : `: ${words}`}${by}.`,
      evidence: '',
      nextStep:
        is === 'removed' ? 'Ask who removed it; what used it finds it missing.' : 'Its sheet shows what it was before.',
      chosen: false,
    };
  }
}
/** One after the other: whoever asks for them may pause in between. */
function* changesIn(objects: readonly (readonly ObjectVersion[])[]): Generator<ChangedObject> {
  for (const own of objects) yield* changesOf(own);
}
const firstFrom = (times: readonly EpochMs[], from: EpochMs): EpochMs | undefined => times[firstNotBefore(times, from)];
const nameKey = ({ object: { kind, namespace, name } }: ObjectVersion): string => `${kind} ${namespace ?? ''} ${name}`;
function byUid(versions: Iterable<ObjectVersion>, kinds: ReadonlySet<InventoryKind>): Map<string, ObjectVersion[]> {
  const found = new Map<string, ObjectVersion[]>();
  for (const version of versions) {
    if (!kinds.has(version.object.kind)) continue;
    const own = found.get(version.object.uid);
    if (own) own.push(version);
    else found.set(version.object.uid, [version]);
  }
  return found;
}
function changesOf(own: readonly ObjectVersion[]): ChangedObject[] {
  const [first] = own;
  const last = own.at(-1)!; // there is one
  const found: ChangedObject[] = [];
  if (first!.from - first!.object.createdAt <= SEEN_WITHIN)
    found.push({ is: 'created', at: first!.from, words: '', version: first! });
  for (let i = 1; i < own.length; i++) {
    const words = changeWords(own[i - 1]!.object, own[i]!.object);
    if (words !== null) found.push({ is: 'changed', at: own[i]!.from, words, version: own[i]! });
  }
  if (last.to !== null) found.push({ is: 'removed', at: last.to, words: '', version: last });
  return found;
}
