import {
  type AlertAnswer,
  EVERYTHING,
  type NowAnswer,
  type ObjectPath,
  pathOfObject,
  type RunningOutLine,
  readPath,
  readWorkloadKey,
  touches,
  writePath,
} from '@zetopsis/contract';
import { byWeight, CRITICALITIES, type Criticality, type Finding, isShort, SEVERITIES } from '@zetopsis/core/findings';
import type { AnyWorkload } from '@zetopsis/core/inventory';
import { RESOURCES, type Resource } from '@zetopsis/core/units';
import { comparedOf, groupBy, type UsageNode } from '@zetopsis/core/usage';
import { ClusterColumns, rowOf } from '../columns/index.ts';
import type { WorkloadState } from '../findings/index.ts';
import { marksOf } from '../marks/index.ts';
import { concerns, inTime, mayTell } from '../runningOut/index.ts';
import type { SeenUsage } from '../usage/index.ts';

const MOST_FAILING = 50;
const MOST_TIGHT = 7;
const MOST_RUNNING_OUT = 7;
const MOST_CHANGED = 12;

/** A cluster in the window, and in the one that is compared with; null when nothing is. */
export interface LookedAt {
  readonly usage: SeenUsage;
  readonly other: SeenUsage | null;
}
export interface NowInput {
  readonly clusters: readonly LookedAt[];
  readonly path: ObjectPath;
  readonly window: { readonly from: number; readonly to: number };
  /** All that were open at a time in the window. */
  readonly alerts: readonly AlertAnswer[];
  /** The team that owns what stands at a path. */
  readonly ownerAt: (path: ObjectPath) => string | null;
}
interface Tight {
  readonly place: ObjectPath;
  readonly resource: Resource;
  readonly tightness: number;
  readonly node: UsageNode;
  readonly then: UsageNode | null | undefined;
}

interface Failing {
  readonly place: ObjectPath;
  readonly finding: Finding;
  readonly criticality: Criticality;
  readonly team: string | null;
  readonly more: number;
}
const MOST_OWNERS = 3;
/** Whose it is, and whose it takes with it. */
function ownersIn(places: readonly ObjectPath[], ownerAt: NowInput['ownerAt']): string | null {
  const owners = [...new Set(places.flatMap((place) => ownerAt(place) ?? []))];
  if (owners.length === 0) return null;
  const left = owners.length - MOST_OWNERS;
  return left > 0 ? `${owners.slice(0, MOST_OWNERS).join(', ')} and ${left} more` : owners.join(', ');
}
/** Worst first; of what is as bad, that on which most hangs; then what has stood longest. */
const gravestFirst = (a: Failing, b: Failing): number =>
  SEVERITIES.indexOf(a.finding.severity) - SEVERITIES.indexOf(b.finding.severity) ||
  CRITICALITIES.indexOf(a.criticality) - CRITICALITIES.indexOf(b.criticality) ||
  byWeight(a.finding, b.finding);

/** What fails, what is tight and what changed, gravest first. Yields after each namespace. */
export function* needsOf(input: NowInput): Generator<void, Pick<NowAnswer, 'failing' | 'tightest' | 'changed'>> {
  const { clusters, path, window, alerts, ownerAt } = input;
  const failing: Failing[] = [];
  const tight: Tight[] = [];
  for (const { usage, other } of clusters) {
    for (const { place, findings, criticality, takes = [] } of wrongIn(usage, path, window.to)) {
      const [finding, ...others] = findings;
      if (!finding || !touches(place, path)) continue;
      failing.push({ place, finding, criticality, team: ownersIn([place, ...takes], ownerAt), more: others.length });
    }
    yield;
    for (const namespace of usage.tree.children) {
      tight.push(...tightIn({ cluster: usage.name, namespace, path, other }));
      yield;
    }
  }
  failing.sort(gravestFirst);
  tight.sort((a, b) => b.tightness - a.tightness);
  return {
    failing: failing.slice(0, MOST_FAILING).map(({ place, ...line }) => ({ path: writePath(place), ...line })),
    tightest: tight.slice(0, MOST_TIGHT).map(({ place, resource, node, then }) => ({
      path: writePath(place),
      team: ownerAt(place),
      resource,
      row: rowOf(node, { against: then && comparedOf(then) }),
    })),
    changed: clusters
      .flatMap(({ usage }) => marksOf({ usage, alerts, path, from: window.from, to: window.to }))
      .filter(({ kind }) => kind !== 'raised' && kind !== 'cleared')
      .reverse()
      .slice(0, MOST_CHANGED),
  };
}

export interface Wrong {
  readonly place: ObjectPath;
  readonly findings: readonly Finding[];
  readonly criticality: Criticality;
  /** Places of others that fail because of it. */
  readonly takes?: readonly ObjectPath[];
}
/** Everything that is wrong in a cluster, with where. Of what belongs to no namespace nobody says how much hangs on it. */
export function* wrongIn(usage: SeenUsage, path: ObjectPath, at: number): Generator<Wrong> {
  const columns = new ClusterColumns(usage, at);
  const cluster = usage.name;
  const wide = path.is === 'everything' || path.is === 'cluster';
  const ordinary = 'ordinary' as const;
  const of = (namespace: string, workload: AnyWorkload | null = null) =>
    columns.judge.criticalityOf(namespace, workload).is;
  if (wide)
    for (const finding of columns.own)
      yield { place: { is: 'cluster', cluster }, findings: [finding], criticality: ordinary };
  for (const [namespace, findings] of columns.asking)
    yield {
      place: { is: 'namespace', cluster, namespace },
      findings: findings.slice(0, 1),
      criticality: of(namespace),
    };
  const placeOf = ({ workload }: WorkloadState) =>
    pathOfObject({ cluster, kind: workload.kind, namespace: workload.namespace, name: workload.name });
  const taken = groupBy(columns.workloads, ({ because }) => because ?? '');
  for (const { node, findings } of columns.nodes) {
    const takes = (taken.get(node.name) ?? []).map(placeOf);
    yield { place: { is: 'node', cluster, node: node.name }, findings, criticality: ordinary, takes };
  }
  for (const { namespace, kind, name, findings } of columns.bounds)
    yield { place: pathOfObject({ cluster, kind, namespace, name }), findings, criticality: of(namespace) };
  for (const { workload, findings } of columns.loose) {
    const { namespace } = workload;
    yield { place: { is: 'workload', cluster, namespace, workload }, findings, criticality: of(namespace) };
  }
  for (const state of columns.workloads) {
    const { workload, findings, because } = state;
    // that its pods are away stands in the node's line; what else is wrong stands here
    const own =
      because === null || !wide ? findings : findings.filter(({ code }) => !isShort(code) && code !== 'unknown');
    yield { place: placeOf(state), findings: own, criticality: of(workload.namespace ?? '', workload) };
  }
}

function tightIn({
  cluster,
  namespace,
  path,
  other,
}: {
  readonly cluster: string;
  readonly namespace: UsageNode;
  readonly path: ObjectPath;
  readonly other: SeenUsage | null;
}): Tight[] {
  const before =
    other && new Map(other.tree.children.find(({ key }) => key === namespace.key)?.children.map((n) => [n.key, n]));
  return namespace.children.flatMap((node) => {
    const workload = node.present ? readWorkloadKey(node.key) : null;
    const place: ObjectPath | null = workload && { is: 'workload', cluster, namespace: namespace.key, workload };
    if (place === null || !touches(place, path)) return [];
    const then = before === null ? undefined : (before.get(node.key) ?? null);
    return RESOURCES.flatMap((resource) => {
      const { tightness } = node.usage[resource];
      return tightness === null ? [] : [{ place, resource, tightness, node, then }];
    });
  });
}

/** What runs out soon, of several clusters; null where nothing was looked at yet. `linesOf`: of a cluster, null before. */
export function runningOutSoon({
  clusters,
  path,
  linesOf,
  ownerAt,
}: {
  readonly clusters: readonly SeenUsage[];
  readonly path: ObjectPath;
  readonly linesOf: (connectionId: string) => readonly RunningOutLine[] | null;
  readonly ownerAt: (path: ObjectPath) => string | null;
}): NowAnswer['runningOut'] {
  const all = clusters.flatMap(({ connectionId, sees }) => {
    const lines = linesOf(connectionId);
    return lines === null ? [] : [lines.filter((line) => mayTell(line, sees) && concerns(line, path))];
  });
  if (all.length === 0) return null;
  const lines = all.flat();
  const soon = inTime(lines.filter(({ outcome }) => outcome.is === 'date' || outcome.is === 'now'));
  return {
    lines: soon
      .slice(0, MOST_RUNNING_OUT)
      .map((line) => ({ ...line, team: ownerAt(readPath(line.path) ?? EVERYTHING) })),
    later: lines.filter(({ outcome }) => outcome.is === 'later').length,
    unknown: lines.filter(({ outcome }) => outcome.is === 'unknown').length,
  };
}
