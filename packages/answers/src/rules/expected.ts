import { namespaceOf, type ObjectPath, pathOfObject, type RuleSelector } from '@zetopsis/contract';
import { formatCount } from '@zetopsis/core/format';
import type { InventoryObject, ObjectVersion } from '@zetopsis/core/inventory';
import type { ConditionOf, ExpectedKind } from '@zetopsis/core/rules';
import { wildcard } from '@zetopsis/core/scouting';
import type { EpochMs } from '@zetopsis/core/units';
import type { Occurrence } from './occurrences.ts';

/** A stretch in which an object was there, and did what is expected of it. */
interface Presence {
  readonly kind: ExpectedKind;
  readonly name: string;
  readonly namespace: string | null;
  readonly path: ObjectPath;
  readonly from: EpochMs;
  /** Null: still. */
  readonly to: EpochMs | null;
  readonly works: boolean;
}
/** A scope in which something is expected: a namespace that is named, or the cluster. */
interface Scope {
  readonly cluster: string;
  readonly namespace: string | null;
}

/** Whether an object does what it is there for: a workload has a ready pod, a node is ready. */
function works(object: InventoryObject): boolean {
  switch (object.kind) {
    case 'deployment':
    case 'stateful set':
    case 'daemon set':
      return object.ready > 0 && object.deletingSince === null;
    case 'node':
      return object.conditions.some(({ type, status }) => type === 'Ready' && status === 'true');
    case 'cron job':
      return !object.suspended;
    default:
      return object.deletingSince === null;
  }
}

/**
 * What should be there in a scope and is not, what is too many or too few, what should not be: over a window that ends with
 * `to`. `selects`: whether an object is one of those that the rule applies to.
 */
export function* expectedOccurrences({
  cluster,
  versions,
  applies,
  condition,
  selects,
  from,
  to,
}: {
  readonly cluster: string;
  readonly versions: Iterable<ObjectVersion>;
  readonly applies: Pick<RuleSelector, 'namespaces'>;
  readonly condition: ConditionOf['expected'];
  readonly selects: (path: ObjectPath) => boolean;
  readonly from: EpochMs;
  readonly to: EpochMs;
}): Generator<Occurrence> {
  const kinds = new Set<string>(condition.kinds);
  const present: Presence[] = [];
  /** By uid: versions of one object stand in one place. */
  const paths = new Map<string, ObjectPath | null>();
  for (const version of versions) {
    const { object } = version;
    const { kind, name, namespace, uid } = object;
    if (!kinds.has(kind) || kind === 'pod' || kind === 'endpoint slice') continue;
    let path = paths.get(uid);
    if (path === undefined) {
      const own = pathOfObject({ cluster, kind, namespace, name });
      path = selects(own) ? own : null;
      paths.set(uid, path);
    }
    if (path === null) continue;
    // one of the kinds that are expected, as was seen above
    present.push({
      kind: kind as ExpectedKind,
      name,
      namespace,
      path,
      from: version.from,
      to: version.to,
      works: works(object),
    });
  }
  const inNamespaces = condition.kinds.some((kind) => kind !== 'node' && kind !== 'namespace');
  const scopes: Scope[] =
    applies.namespaces.length > 0 && inNamespaces
      ? applies.namespaces.map((namespace) => ({ cluster, namespace }))
      : [{ cluster, namespace: null }];
  for (const scope of scopes) {
    const own =
      scope.namespace === null ? present : present.filter(({ path }) => namespaceOf(path) === scope.namespace);
    yield* missing(scope, own, condition, from);
    if (condition.extra) yield* extra(own, condition, from);
    yield* counted(scope, own, condition, from, to);
  }
}

function* missing(
  scope: Scope,
  present: readonly Presence[],
  { names, kinds }: ConditionOf['expected'],
  from: EpochMs,
): Generator<Occurrence> {
  for (const name of names) {
    const fits = wildcard(name);
    const own = present.filter((one) => fits(one.name));
    const isThereAt = covering(own);
    const [kind] = kinds;
    const path: ObjectPath =
      own[0]?.path ??
      (kinds.length === 1 && kind !== undefined && !name.includes('*') && (scope.namespace !== null || kind === 'node')
        ? pathOfObject({ ...scope, kind, name })
        : placeOf(scope));
    for (const gap of gapsIn(
      own.filter(({ works: does }) => does),
      from,
    )) {
      const there = isThereAt(gap.from);
      yield {
        ...gap,
        key: `missing ${scope.namespace ?? ''} ${name}`,
        path,
        name,
        severity: 'critical',
        reason: there ? 'It is there, and nothing of it is ready.' : 'It should be there, and is not.',
        evidence: `expected among the ${kinds.map((one) => `${one}s`).join(', ')} ${scope.namespace === null ? `of ${scope.cluster}` : `in ${scope.namespace}`}`,
        nextStep: there
          ? 'Its findings say why nothing is ready.'
          : 'See what removed it: the tape shows what changed.',
        chosen: true,
      };
    }
  }
}
function* extra(
  present: readonly Presence[],
  { names }: ConditionOf['expected'],
  from: EpochMs,
): Generator<Occurrence> {
  const fits = names.map(wildcard);
  for (const one of present) {
    if (fits.some((expected) => expected(one.name)) || (one.to !== null && one.to <= from)) continue;
    yield {
      key: `extra ${one.kind} ${one.namespace ?? ''} ${one.name}`,
      path: one.path,
      name: `${one.kind} ${one.name}`,
      severity: 'warning',
      from: Math.max(one.from, from),
      to: one.to,
      reason: 'It is there, and nobody said that it should be.',
      evidence: '',
      nextStep: 'Add it to what is expected, or remove it.',
      chosen: true,
    };
  }
}
function* counted(
  scope: Scope,
  present: readonly Presence[],
  { least, most, kinds }: ConditionOf['expected'],
  from: EpochMs,
  to: EpochMs,
): Generator<Occurrence> {
  if (least === null && most === null) return;
  const working = present.filter(({ works: does }) => does);
  /** Who comes, and who goes, at each moment at which that changes. */
  const turns = new Map<EpochMs, { readonly key: string; readonly by: 1 | -1 }[]>([[from, []]]);
  const turn = (at: EpochMs, key: string, by: 1 | -1) => {
    const own = turns.get(at);
    if (own) own.push({ key, by });
    else turns.set(at, [{ key, by }]);
  };
  for (const one of working) {
    const begins = Math.max(one.from, from);
    if (begins >= to || (one.to !== null && one.to <= begins)) continue;
    const key = `${one.kind} ${one.namespace} ${one.name}`;
    turn(begins, key, 1);
    if (one.to !== null && one.to < to) turn(one.to, key, -1);
  }
  const edges = [...turns.keys()].sort((a, b) => a - b);
  const there = new Map<string, number>();
  for (const [i, at] of edges.entries()) {
    for (const { key, by } of turns.get(at) ?? []) {
      const left = (there.get(key) ?? 0) + by;
      if (left === 0) there.delete(key);
      else there.set(key, left);
    }
    const count = there.size;
    const few = least !== null && count < least;
    if (!few && (most === null || count <= most)) continue;
    const what = kinds.map((one) => `${one}s`).join(', ');
    yield {
      key: `count ${scope.namespace ?? ''}`,
      path: placeOf(scope),
      name: `${what} in ${scope.namespace ?? scope.cluster}`,
      severity: 'critical',
      from: at,
      to: edges[i + 1] ?? null,
      reason: few
        ? `${formatCount(count, 'one')} of at least ${least} that should be there.`
        : `${count} are there; at most ${most} should be.`,
      evidence: '',
      nextStep: 'See what was made or removed: the tape shows it.',
      chosen: true,
    };
  }
}
const placeOf = ({ cluster, namespace }: Scope): ObjectPath =>
  namespace === null ? { is: 'cluster', cluster } : { is: 'namespace', cluster, namespace };
/** Whether one of these stretches goes on at a moment; asked for moments that ascend. */
function covering(
  stretches: readonly { readonly from: EpochMs; readonly to: EpochMs | null }[],
): (at: EpochMs) => boolean {
  const sorted = [...stretches].sort((a, b) => a.from - b.from);
  let next = 0;
  /** When the last of those that have begun is over. */
  let over = Number.NEGATIVE_INFINITY;
  return (at) => {
    for (; next < sorted.length && sorted[next]!.from <= at; next++)
      over = Math.max(over, sorted[next]!.to ?? Number.POSITIVE_INFINITY);
    return over > at;
  };
}
/** Where none of these stretches is, from a moment on. */
function gapsIn(
  stretches: readonly { readonly from: EpochMs; readonly to: EpochMs | null }[],
  from: EpochMs,
): { readonly from: EpochMs; readonly to: EpochMs | null }[] {
  const gaps: { from: EpochMs; to: EpochMs | null }[] = [];
  let covered: EpochMs | null = from;
  for (const one of [...stretches].sort((a, b) => a.from - b.from)) {
    if (covered === null) break;
    if (one.from > covered) gaps.push({ from: covered, to: one.from });
    covered = one.to === null ? null : Math.max(covered, one.to);
  }
  if (covered !== null) gaps.push({ from: covered, to: null });
  return gaps;
}
