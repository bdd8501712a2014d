import { namesOf, type ObjectPath, writePath } from '@zetopsis/contract';
import { formatBytes, formatCount, formatPercent } from '@zetopsis/core/format';
import { type ContainerObject, hasEnded, type PodObject } from '@zetopsis/core/inventory';
import { againstLevels, boundPast, stillHolding, type Thresholds } from '@zetopsis/core/rules';
import { stalenessOf } from '@zetopsis/core/samples';
import type { EpochMs } from '@zetopsis/core/units';
import { changedBefore } from './changedBefore.ts';
import type { JudgedCluster, Subject } from './subject.ts';

/** Containers that have a memory limit, each against shares of it. */
export function* memorySubjects(
  view: JudgedCluster,
  thresholdsAt: (path: ObjectPath) => Thresholds,
): Generator<Subject> {
  for (const pod of view.inventory.list('pod')) {
    if (hasEnded(pod)) continue;
    for (const container of pod.containers) {
      if (container.role === 'start-up' || container.memoryLimit === null) continue;
      yield memorySubject({ view, thresholdsAt, pod, container, limit: container.memoryLimit });
    }
  }
}

function memorySubject({
  view,
  thresholdsAt,
  pod,
  container: { name: container, restarts, lastEnd },
  limit,
}: {
  readonly view: JudgedCluster;
  readonly thresholdsAt: (path: ObjectPath) => Thresholds;
  readonly pod: PodObject;
  readonly container: ContainerObject;
  readonly limit: number;
}): Subject {
  const workload = view.inventory.workloadOf(pod);
  const staleness = stalenessOf(view.interval);
  const newest = (at: EpochMs) => stillHolding(view.memoryAt(pod.uid, container, at), at, staleness);
  const path: ObjectPath = {
    is: 'container',
    cluster: view.name,
    namespace: workload.namespace,
    workload,
    node: null,
    pod: pod.name,
    container,
  };
  const thresholds = thresholdsAt(path);
  return {
    key: `${pod.uid}/${container}`,
    path,
    name: `${pod.name} › ${container}`,
    there: true,
    verdicts: (at) => {
      const own = newest(at);
      return againstLevels(own && own.value / limit, thresholds, own ? { reading: own.at } : {});
    },
    value: (at) => {
      const own = newest(at);
      return own === null ? 'not read' : `${formatPercent(own.value / limit)} of ${formatBytes(limit)}`;
    },
    facts: (at, since) => {
      const value = newest(at)?.value ?? 0;
      const bound = boundPast(value / limit, thresholds)?.bound ?? 1;
      return {
        title: `${workload.name} uses ${formatPercent(value / limit)} of its memory limit`,
        path: writePath(path),
        place: namesOf(path),
        value: `${formatBytes(value)} working set`,
        limit: `${formatBytes(limit)}; the rule tells above ${formatPercent(bound)} of it`,
        share: value / limit,
        reason: `The working set of container ${container} has been above ${formatPercent(bound)} of its limit without a break. At the limit the container is ended.`,
        evidence:
          restarts > 0
            ? `it was restarted ${formatCount(restarts, 'time')} before; the last end was ${lastEnd?.reason || 'without a reason'}`
            : 'it was not restarted so far',
        changed: changedBefore(view.inventory, workload.uid, since),
        nextStep:
          'Look at its memory over a longer window: a steady climb is a leak and ends at the limit, a jump is load. Raise the limit only for load.',
      };
    },
  };
}
