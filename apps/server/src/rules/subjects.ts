import { fewerReadySince, hasEnded, workloadFindings } from '@zetopsis/core/findings';
import { formatBytes, formatCount, formatPercent } from '@zetopsis/core/format';
import { isKeeper, type PodObject, rolloutsOf, type WorkloadObject, workloadKey } from '@zetopsis/core/inventory';
import { judgeMemory, judgeReady, type Verdict } from '@zetopsis/core/rules';
import type { Samples } from '@zetopsis/core/samples';
import { type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { stalenessOf } from '@zetopsis/core/usage';
import type { ClusterInventory } from '../inventory/clusterInventory.ts';
import type { AlertFacts } from './alert.store.ts';

/** One object a rule looks at: how it stands at a moment, and what to tell of it. */
export interface Subject {
  readonly key: string;
  readonly namespace: string;
  /** Key of the workload it belongs to, which may have an owner of its own. */
  readonly workload: string;
  /** `at` lies a little in the past for measured values; object states are judged as they are now. */
  verdict(at: EpochMs): Verdict;
  facts(at: EpochMs, since: EpochMs): Omit<AlertFacts, 'team'>;
}

interface ClusterView {
  readonly name: string;
  readonly blind: boolean;
  readonly interval: number;
  readonly inventory: ClusterInventory;
  /** Working set of one container. */
  readonly memoryOf: (podUid: string, container: string) => Samples;
}

/** What changed shortly before something began, in words: its rollout, and what its pods read. */
function changedBefore(inventory: ClusterInventory, uid: string, since: EpochMs): string | null {
  const near = (at: EpochMs) => at <= since + MINUTE && at >= since - HOUR;
  const rollout = rolloutsOf(inventory.list('replica set'))
    .filter(({ deploymentUid, at }) => deploymentUid === uid && near(at))
    .at(-1);
  const found: { at: EpochMs; words: string }[] = [];
  const workload = inventory.get(uid);
  const uses = workload && 'uses' in workload ? workload.uses : null;
  for (const [kind, names] of [
    ['config map', uses?.configMaps ?? []],
    ['secret', uses?.secrets ?? []],
  ] as const) {
    for (const name of names) {
      const object = inventory.named(kind, workload?.namespace ?? '', name);
      const change = object ? inventory.lastChange(object.uid) : null;
      if (!change || !near(change.at)) continue;
      const what = change.words === '' ? 'changed' : change.words;
      found.push({
        at: change.at,
        words: `${kind} ${name}: ${what}${change.who === null ? '' : `, by ${change.who}`}`,
      });
    }
  }
  // the cluster tells whole seconds: of two in one second the settings came first, or the rollout would not have them
  if (rollout) found.push({ at: rollout.at, words: `rollout of ${rollout.name}: ${rollout.change}` });
  return found.length === 0
    ? null
    : found
        .sort((a, b) => a.at - b.at)
        .map(({ words }) => words)
        .join('; then ');
}

export function* memorySubjects(view: ClusterView, above: number): Generator<Subject> {
  for (const pod of view.inventory.list('pod')) {
    if (hasEnded(pod)) continue;
    for (const container of pod.containers) {
      if (container.role === 'start-up' || container.memoryLimit === null) continue;
      yield memorySubject(view, above, pod, container.name, container.memoryLimit);
    }
  }
}

function memorySubject(view: ClusterView, above: number, pod: PodObject, container: string, limit: number): Subject {
  const workload = view.inventory.workloadOf(pod);
  const judge = (at: EpochMs) =>
    judgeMemory(view.memoryOf(pod.uid, container), at, stalenessOf(view.interval), limit, above);
  return {
    key: `${pod.uid}/${container}`,
    namespace: workload.namespace,
    workload: workloadKey(workload),
    verdict: (at) => judge(at).verdict,
    facts: (at, since) => {
      const value = judge(at).value ?? 0;
      const ended = view.inventory
        .list('pod')
        .find(({ uid }) => uid === pod.uid)
        ?.containers.find(({ name }) => name === container);
      const restarts = ended?.restarts ?? 0;
      return {
        title: `${workload.name} uses ${formatPercent(value / limit)} of its memory limit`,
        path: [view.name, workload.namespace, workloadKey(workload), pod.name, container],
        place: [view.name, workload.namespace, workload.name, pod.name, container],
        value: `${formatBytes(value)} working set`,
        limit: `${formatBytes(limit)}; the rule tells above ${formatPercent(above)} of it`,
        share: value / limit,
        reason: `The working set of container ${container} has been above ${formatPercent(above)} of its limit without a break. At the limit the container is ended.`,
        evidence:
          restarts > 0
            ? `it was restarted ${formatCount(restarts, 'time')} before; the last end was ${ended?.lastEnd?.reason || 'without a reason'}`
            : 'it was not restarted so far',
        changed: changedBefore(view.inventory, workload.uid, since),
        nextStep:
          'Look at its memory over a longer window: a steady climb is a leak and ends at the limit, a jump is load. Raise the limit only for load.',
      };
    },
  };
}

export function readySubjects(view: ClusterView): Subject[] {
  const workloads = [
    ...view.inventory.list('deployment'),
    ...view.inventory.list('stateful set'),
    ...view.inventory.list('daemon set'),
    ...view.inventory.list('replica set'),
  ];
  return workloads.filter(isKeeper).map((workload) => readySubject(view, workload));
}

function readySubject(view: ClusterView, workload: WorkloadObject): Subject {
  const namespace = workload.namespace ?? '';
  const key = workloadKey(workload);
  const pods = () => view.inventory.podsOf(namespace, key);
  return {
    key: workload.uid,
    namespace,
    workload: key,
    verdict: () => (view.blind ? { is: 'noData' } : judgeReady(workload, pods())),
    facts: (at, since) => {
      const [finding] = workloadFindings(workload, pods(), at);
      const missing = workload.desired - workload.ready;
      return {
        title: `${workload.name}: ${missing} of ${formatCount(workload.desired, 'pod')} not ready`,
        path: [view.name, namespace, key],
        place: [view.name, namespace, `${workload.name} (${workload.kind})`],
        value: `${workload.ready} ready`,
        limit: `${workload.desired} desired`,
        share: workload.desired === 0 ? 0 : workload.ready / workload.desired,
        reason: finding?.reason ?? `${workload.ready} of ${workload.desired} pods are ready.`,
        evidence: finding?.evidence ?? '',
        changed: changedBefore(view.inventory, workload.uid, fewerReadySince(workload, pods()) ?? since),
        nextStep: finding?.nextStep ?? 'Look at the findings of its pods.',
      };
    },
  };
}
