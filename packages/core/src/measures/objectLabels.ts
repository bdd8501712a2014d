import { type InventoryObject, type ObjectVersion, workloadKey, workloadOf } from '../inventory/index.ts';
import { OBJECT_LABELS } from '../scouting/index.ts';
import type { EpochMs } from '../units/index.ts';
import type { ObjectLabels } from './evaluate/context.ts';
import type { Labels } from './evaluate/lines.ts';
import { type Plan, walk } from './node.ts';

/** Labels of an object from a moment on. */
export interface ObjectSpan {
  readonly from: EpochMs;
  readonly labels: Labels;
}
/** Of each object that series may belong to, oldest first; plain data, so that another thread may have it. */
export type ObjectTable = ReadonlyMap<string, readonly ObjectSpan[]>;

/** Kinds of objects that say what series belong to, and to what those belong. */
export const TIED_KINDS = ['pod', 'node', 'namespace', 'replica set', 'job'] as const;

/** What `add labels` asks for anywhere in a plan; none: no object has to be looked at. */
export function labelsAdded({ result }: Plan): ReadonlySet<string> {
  const wanted = new Set<string>();
  walk(result, (node) => {
    if (node.is === 'step' && node.step.step === 'add labels') for (const label of node.step.labels) wanted.add(label);
  });
  return wanted;
}

const keyed = (...parts: readonly string[]): string => parts.join('\n');
const podKey = (cluster: string, uid: string): string => keyed('pod', cluster, uid);
const namedKey = (cluster: string, namespace: string, name: string): string => keyed('named', cluster, namespace, name);
const nodeKey = (cluster: string, name: string): string => keyed('node', cluster, name);
const namespaceKey = (cluster: string, name: string): string => keyed('namespace', cluster, name);

/** Objects that a series may belong to, the nearest first. */
function keysOf(labels: Labels): string[] {
  const cluster = labels['cluster'] ?? '';
  const of = (label: string) => labels[label] ?? '';
  const [uid, pod] = [of(OBJECT_LABELS.podUid), of(OBJECT_LABELS.pod)];
  const [namespace, node] = [of(OBJECT_LABELS.namespace), of(OBJECT_LABELS.node)];
  return [
    ...(uid === '' ? [] : [podKey(cluster, uid)]),
    ...(pod === '' ? [] : [namedKey(cluster, namespace, pod)]),
    ...(namespace === '' ? [] : [namespaceKey(cluster, namespace)]),
    ...(node === '' ? [] : [nodeKey(cluster, node)]),
  ];
}

/** As the steps ask for them. */
export function objectLabelsFrom(table: ObjectTable): ObjectLabels {
  return (labels, wanted) => {
    for (const key of keysOf(labels)) {
      const spans = table.get(key);
      if (spans === undefined) continue;
      return spans.map(({ from, labels: all }) => ({
        from,
        labels: Object.fromEntries(wanted.flatMap((name) => (all[name] === undefined ? [] : [[name, all[name]]]))),
      }));
    }
    return [];
  };
}

/**
 * Adds what a cluster's objects are called: `pod`, `workload`, `kind`, `team`, `node`, `cluster`, and of their own labels those that
 * are wanted. `versions` oldest first, of `TIED_KINDS`; `teamOf`: the team that owns a workload or a namespace. Yields after each version.
 */
export function* tieObjects(
  table: Map<string, ObjectSpan[]>,
  {
    cluster,
    versions,
    wanted,
    teamOf,
  }: {
    readonly cluster: string;
    readonly versions: readonly ObjectVersion[];
    readonly wanted: ReadonlySet<string>;
    readonly teamOf: (namespace: string, workload: string | null) => string | null;
  },
): Generator<void> {
  const byUid = new Map<string, InventoryObject>();
  for (const { object } of versions) {
    if (object.kind === 'replica set' || object.kind === 'job') byUid.set(object.uid, object);
    yield;
  }
  const add = (key: string, from: EpochMs, labels: Labels) => {
    const spans = table.get(key) ?? [];
    table.set(key, spans);
    const before = spans.at(-1);
    if (before === undefined || JSON.stringify(before.labels) !== JSON.stringify(labels)) spans.push({ from, labels });
  };
  for (const { object, fromEarliest: from } of versions) {
    yield;
    const own = Object.fromEntries(Object.entries(object.labels).filter(([name]) => wanted.has(name)));
    const namespace = object.namespace ?? '';
    const team = (workload: string | null): Labels => {
      const name = teamOf(object.kind === 'namespace' ? object.name : namespace, workload);
      return name === null ? {} : { team: name };
    };
    if (object.kind === 'pod') {
      const workload = workloadOf(object, (uid) => byUid.get(uid));
      const labels = {
        ...own,
        cluster,
        pod: object.name,
        workload: workload.name,
        kind: workload.kind,
        ...team(workloadKey(workload)),
        ...(object.node === null ? {} : { node: object.node }),
      };
      add(podKey(cluster, object.uid), from, labels);
      add(namedKey(cluster, namespace, object.name), from, labels);
    } else if (object.kind === 'node') add(nodeKey(cluster, object.name), from, { ...own, cluster, node: object.name });
    else if (object.kind === 'namespace')
      add(namespaceKey(cluster, object.name), from, { ...own, cluster, ...team(null) });
  }
}
