import { type ObjectPath, pathOfObject } from '@zetopsis/contract';
import { formatCount } from '@zetopsis/core/format';
import { type ClusterEvent, type ClusterInventory, INVENTORY_KINDS, kindNamed } from '@zetopsis/core/inventory';
import type { ConditionOf } from '@zetopsis/core/rules';
import { SECOND } from '@zetopsis/core/units';
import type { Occurrence } from './occurrences.ts';

/** What a cluster said of its objects: each stands for a while after it was said last. */
export function* heardOccurrences(
  cluster: string,
  inventory: Pick<ClusterInventory, 'get' | 'named' | 'workloadOf'>,
  events: Iterable<ClusterEvent>,
  { reasons, standsSeconds }: ConditionOf['cluster event'],
): Generator<Occurrence> {
  const wanted = new Set(reasons);
  for (const event of events) {
    if (wanted.size === 0 ? event.type !== 'warning' : !wanted.has(event.reason)) continue;
    const { about, reason, message, count, lastAt, namespace } = event;
    yield {
      key: `${about.uid === '' ? `${about.kind} ${namespace ?? ''} ${about.name}` : about.uid} ${reason}`,
      path: pathOfEvent(cluster, inventory, event),
      name: about.name,
      severity: event.type === 'warning' ? 'critical' : 'warning',
      from: lastAt,
      to: lastAt + standsSeconds * SECOND,
      reason: `The cluster says: ${message.trim() === '' ? reason : message.trim()}`.slice(0, 400),
      evidence: `${reason}, said ${formatCount(count, 'time')} of ${about.kind} ${about.name}`,
      nextStep: 'Look at the object: its sheet has what else was said of it.',
      chosen: false,
    };
  }
}
/** Where what it is about stands; what is none of our kinds stands in its namespace. */
function pathOfEvent(
  cluster: string,
  inventory: Pick<ClusterInventory, 'get' | 'named' | 'workloadOf'>,
  { about, namespace }: ClusterEvent,
): ObjectPath {
  const kind = kindNamed(about.kind);
  const place: ObjectPath =
    namespace === null || namespace === '' ? { is: 'cluster', cluster } : { is: 'namespace', cluster, namespace };
  if (kind === null || !INVENTORY_KINDS.includes(kind) || kind === 'endpoint slice') return place;
  if (kind === 'pod') {
    const pod = inventory.get(about.uid) ?? inventory.named('pod', namespace ?? '', about.name);
    if (pod?.kind !== 'pod') return place;
    const workload = inventory.workloadOf(pod);
    return { is: 'pod', cluster, namespace: workload.namespace, workload, node: null, pod: pod.name };
  }
  return pathOfObject({ cluster, kind, namespace: namespace === '' ? null : namespace, name: about.name });
}
