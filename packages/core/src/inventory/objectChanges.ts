import { type EpochMs, MINUTE } from '../units/index.ts';
import { changeBetween } from './changes.ts';
import { equal } from './equal.ts';
import type {
  AutoscalerObject,
  ConfigMapObject,
  CronJobObject,
  InventoryKind,
  InventoryObject,
  NodeObject,
  QuotaObject,
  ServiceObject,
  WorkloadObject,
} from './objects.ts';
import type { ObjectVersion } from './versions.ts';

/** Something that somebody or something changed, as far as two versions of an object, or the object itself, prove it. */
export interface ObjectChange {
  /** When at the latest; at the earliest `earliest`. */
  readonly at: EpochMs;
  readonly earliest: EpochMs;
  readonly is: 'rollout' | 'scaled' | 'node change' | 'config change';
  readonly kind: ChangingKind;
  readonly namespace: string | null;
  readonly name: string;
  readonly uid: string;
  readonly words: string;
  /** As the object says it; null when it does not. */
  readonly who: string | null;
}

/** Kinds in which changes are looked for. */
export const CHANGING_KINDS = [
  'node',
  'deployment',
  'stateful set',
  'daemon set',
  'cron job',
  'service',
  'volume claim',
  'quota',
  'limit range',
  'autoscaler',
  'disruption budget',
  'config map',
  'secret',
] as const satisfies readonly InventoryKind[];
export type ChangingKind = (typeof CHANGING_KINDS)[number];

const joined = (parts: readonly string[]): string | null => (parts.length === 0 ? null : parts.join(', '));

function configMapWords(before: ConfigMapObject, after: ConfigMapObject): string | null {
  const parts: string[] = [];
  for (const key of new Set([...Object.keys(before.keys), ...Object.keys(after.keys)])) {
    const [old, now] = [before.keys[key], after.keys[key]];
    if (old === now) continue;
    parts.push(
      old === undefined ? `key ${key} added` : now === undefined ? `key ${key} removed` : `key ${key} changed`,
    );
  }
  return joined(parts);
}

function quotaWords(before: QuotaObject, after: QuotaObject): string | null {
  const hard = (rows: QuotaObject['rows'], resource: string) => rows.find((row) => row.resource === resource)?.hard;
  const resources = new Set([...before.rows, ...after.rows].map(({ resource }) => resource));
  return joined(
    [...resources].flatMap((resource) => {
      const [old, now] = [hard(before.rows, resource), hard(after.rows, resource)];
      return old === now ? [] : [`${resource} ${old ?? 'none'} → ${now ?? 'none'}`];
    }),
  );
}

function serviceWords(before: ServiceObject, after: ServiceObject): string | null {
  return joined([
    ...(equal(before.ports, after.ports) ? [] : ['its ports changed']),
    ...(equal(before.selector, after.selector) ? [] : ['it selects other pods']),
    ...(before.type === after.type ? [] : [`type ${before.type} → ${after.type}`]),
  ]);
}
function autoscalerWords(before: AutoscalerObject, after: AutoscalerObject): string | null {
  return joined([
    ...(before.least === after.least ? [] : [`at least ${before.least} → ${after.least}`]),
    ...(before.most === after.most ? [] : [`at most ${before.most} → ${after.most}`]),
    ...(equal(before.follows, after.follows) ? [] : [`follows ${after.follows.join(', ')}`]),
  ]);
}
function cronJobWords(before: CronJobObject, after: CronJobObject): string | null {
  return joined([
    ...(before.schedule === after.schedule ? [] : [`schedule ${before.schedule} → ${after.schedule}`]),
    ...(before.suspended === after.suspended ? [] : [after.suspended ? 'suspended' : 'goes on again']),
  ]);
}

const CONDITION_WORDS: Readonly<Record<string, { readonly holds: string; readonly ends: string }>> = {
  Ready: { holds: 'is ready again', ends: 'is not ready' },
  MemoryPressure: { holds: 'is short of memory', ends: 'has enough memory again' },
  DiskPressure: { holds: 'is short of disk space', ends: 'has enough disk space again' },
  PIDPressure: { holds: 'is short of process numbers', ends: 'has enough process numbers again' },
};
const conditionWords = (type: string, status: string): string | null => {
  const words = Object.hasOwn(CONDITION_WORDS, type) ? CONDITION_WORDS[type] : undefined;
  return words ? (status === 'true' ? words.holds : words.ends) : null;
};

function nodeWords(before: NodeObject, after: NodeObject): string | null {
  const parts = after.conditions.flatMap(({ type, status }) => {
    const old = before.conditions.find((candidate) => candidate.type === type);
    const words = old && old.status !== status ? conditionWords(type, status) : null;
    return words === null ? [] : [words];
  });
  if (before.acceptsPods !== after.acceptsPods)
    parts.push(after.acceptsPods ? 'takes pods again' : 'takes no new pods');
  if (!equal(before.allocatable, after.allocatable)) parts.push('what it can give changed');
  return joined(parts);
}

function workloadChange(before: WorkloadObject, after: WorkloadObject): Pick<ObjectChange, 'is' | 'words'> | null {
  // a deployment's new images are told by its replica sets (rolloutsOf)
  if (after.kind !== 'deployment' && !equal(before.images, after.images))
    return { is: 'rollout', words: changeBetween(before, after) };
  if (after.kind !== 'daemon set' && before.desired !== after.desired)
    return { is: 'scaled', words: `${before.desired} → ${after.desired} pods` };
  return null;
}

/** What differs between two states of one object that somebody would call a change; null when nothing does. */
function difference(before: InventoryObject, after: InventoryObject): Pick<ObjectChange, 'is' | 'words'> | null {
  const config = (words: string | null) => (words === null ? null : { is: 'config change' as const, words });
  switch (after.kind) {
    case 'node': {
      const words = before.kind === 'node' ? nodeWords(before, after) : null;
      return words === null ? null : { is: 'node change', words };
    }
    case 'deployment':
    case 'stateful set':
    case 'daemon set':
      return before.kind === after.kind ? workloadChange(before, after) : null;
    case 'config map':
      return before.kind === after.kind ? config(configMapWords(before, after)) : null;
    case 'secret':
      return config('a new version');
    case 'quota':
      return before.kind === after.kind ? config(quotaWords(before, after)) : null;
    case 'limit range':
      return before.kind === after.kind && !equal(before.rows, after.rows) ? config('its bounds changed') : null;
    case 'service':
      return before.kind === after.kind ? config(serviceWords(before, after)) : null;
    case 'autoscaler':
      return before.kind === after.kind ? config(autoscalerWords(before, after)) : null;
    case 'cron job':
      return before.kind === after.kind ? config(cronJobWords(before, after)) : null;
    case 'disruption budget':
      return before.kind === after.kind &&
        !equal([before.leastAvailable, before.mostUnavailable], [after.leastAvailable, after.mostUnavailable])
        ? config('what may be disrupted changed')
        : null;
    case 'volume claim':
      return before.kind === after.kind && before.requested !== after.requested
        ? config('another size was asked for')
        : null;
    case 'namespace':
    case 'pod':
    case 'replica set':
    case 'job':
    case 'endpoint slice':
    case 'persistent volume':
      return null;
  }
}

const identity = <K>({
  kind,
  namespace,
  name,
  uid,
}: Pick<InventoryObject, 'namespace' | 'name' | 'uid'> & { kind: K }) => ({
  kind,
  namespace,
  name,
  uid,
});
const changing = (kind: InventoryKind): kind is ChangingKind => (CHANGING_KINDS as readonly string[]).includes(kind);
/** An object as young as this was made, not changed. */
const YOUNG = MINUTE;

/** What an object tells of its own past, before the first version that is known. */
function toldByItself({ object, from }: ObjectVersion): ObjectChange[] {
  const told: ObjectChange[] = [];
  const old = (at: EpochMs) => at > object.createdAt + YOUNG && at < from;
  if (object.kind === 'node')
    for (const { type, status, since } of object.conditions) {
      const words = conditionWords(type, status);
      if (since !== null && old(since) && words !== null)
        told.push({ ...identity(object), at: since, earliest: since, is: 'node change', words, who: null });
    }
  else if ((object.kind === 'config map' || object.kind === 'secret') && object.changedBy && old(object.changedBy.at))
    told.push({
      ...identity(object),
      at: object.changedBy.at,
      earliest: object.changedBy.at,
      is: 'config change',
      words: 'changed before Zetopsis read it; in what, is not known',
      who: object.changedBy.who,
    });
  return told;
}

/** What somebody would call a change between two states of one object, in words; null when nothing is. */
export const changeWords = (before: InventoryObject, after: InventoryObject): string | null =>
  difference(before, after)?.words ?? null;

/**
 * Every change that these versions prove, oldest first, found step by step. Versions come oldest first; those of one
 * uid belong together.
 */
export function* objectChanges(versions: Iterable<ObjectVersion>): Generator<void, ObjectChange[]> {
  const newest = new Map<string, ObjectVersion>();
  const changes: ObjectChange[] = [];
  for (const version of versions) {
    yield;
    const { object } = version;
    const before = newest.get(object.uid);
    newest.set(object.uid, version);
    if (!before) {
      changes.push(...toldByItself(version));
      continue;
    }
    const found = difference(before.object, object);
    if (!found) continue;
    const { changedBy, kind } = object;
    if (!changing(kind)) continue;
    const named = changedBy !== null && changedBy.at >= version.fromEarliest - MINUTE ? changedBy.who : null;
    changes.push({
      ...identity({ ...object, kind }),
      ...found,
      at: version.from,
      earliest: version.fromEarliest,
      who: found.is === 'node change' ? null : named,
    });
  }
  return changes.sort((a, b) => a.at - b.at);
}
