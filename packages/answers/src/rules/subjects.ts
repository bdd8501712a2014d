import { namesOf, type ObjectPath, writePath } from '@zetopsis/contract';
import { type Finding, fewerReadySince, isShort, type Severity } from '@zetopsis/core/findings';
import { formatBytes, formatCount, formatPercent } from '@zetopsis/core/format';
import type { ClusterInventory } from '@zetopsis/core/inventory';
import {
  hasEnded,
  isKeeper,
  type PodObject,
  rolloutsOf,
  type WorkloadObject,
  workloadKey,
} from '@zetopsis/core/inventory';
import { judgeMemory, judgeReady, type RuleKind, type Verdict } from '@zetopsis/core/rules';
import { type Samples, stalenessOf } from '@zetopsis/core/samples';
import { type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { type ClusterJudge, type CriticalityOf, judgeOf } from '../findings/index.ts';

/** What an alert tells, kept as it was when it was raised. */
export interface AlertFacts {
  readonly title: string;
  readonly path: readonly string[];
  /** The path in words a person reads. */
  readonly place: readonly string[];
  readonly value: string;
  readonly limit: string;
  readonly share: number;
  readonly reason: string;
  readonly evidence: string;
  readonly changed: string | null;
  readonly nextStep: string;
  readonly team: string | null;
}
/** One object a rule looks at: how it stands at a moment, and what to tell of it. */
export interface Subject {
  readonly key: string;
  readonly namespace: string;
  /** Key of the workload it belongs to, which may have an owner of its own. */
  readonly workload: string;
  /** `at` lies a little in the past for measured values; object states are judged as they are now. */
  verdict(at: EpochMs): Verdict;
  facts(at: EpochMs, since: EpochMs): Omit<AlertFacts, 'team'>;
  /** How grave it is, as it is found everywhere else; null where its rule alone says so. */
  severity(at: EpochMs): Severity | null;
}

/** A cluster as rules look at it. */
export interface JudgedCluster {
  readonly name: string;
  readonly blind: boolean;
  readonly interval: number;
  readonly inventory: ClusterInventory;
  readonly criticalityOf: CriticalityOf;
  /** Working set of one container, from a moment on. */
  readonly memoryOf: (podUid: string, container: string, since: EpochMs) => Samples;
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

function* memorySubjects(view: JudgedCluster, above: number): Generator<Subject> {
  for (const pod of view.inventory.list('pod')) {
    if (hasEnded(pod)) continue;
    for (const container of pod.containers) {
      if (container.role === 'start-up' || container.memoryLimit === null) continue;
      yield memorySubject({ view, above, pod, container: container.name, limit: container.memoryLimit });
    }
  }
}

function memorySubject({
  view,
  above,
  pod,
  container,
  limit,
}: {
  readonly view: JudgedCluster;
  readonly above: number;
  readonly pod: PodObject;
  readonly container: string;
  readonly limit: number;
}): Subject {
  const workload = view.inventory.workloadOf(pod);
  const staleness = stalenessOf(view.interval);
  const judge = (at: EpochMs) =>
    judgeMemory({ samples: view.memoryOf(pod.uid, container, at - staleness), at, staleness, limit, above });
  return {
    key: `${pod.uid}/${container}`,
    namespace: workload.namespace,
    workload: workloadKey(workload),
    verdict: (at) => judge(at).verdict,
    severity: () => null,
    facts: (at, since) => {
      const value = judge(at).value ?? 0;
      const ended = view.inventory
        .list('pod')
        .find(({ uid }) => uid === pod.uid)
        ?.containers.find(({ name }) => name === container);
      const restarts = ended?.restarts ?? 0;
      const path: ObjectPath = {
        is: 'container',
        cluster: view.name,
        namespace: workload.namespace,
        workload,
        node: null,
        pod: pod.name,
        container,
      };
      return {
        title: `${workload.name} uses ${formatPercent(value / limit)} of its memory limit`,
        path: writePath(path),
        place: namesOf(path),
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

function readySubjects(view: JudgedCluster): Subject[] {
  const workloads = [
    ...view.inventory.list('deployment'),
    ...view.inventory.list('stateful set'),
    ...view.inventory.list('daemon set'),
    ...view.inventory.list('replica set'),
  ];
  // what is judged at one moment is found once
  let judge: { readonly at: EpochMs; readonly of: ClusterJudge } | null = null;
  const judgeAt = (at: EpochMs): ClusterJudge => {
    if (judge?.at !== at) judge = { at, of: judgeOf(view.inventory, at, view.criticalityOf) };
    return judge.of;
  };
  return workloads.filter(isKeeper).map((workload) => readySubject(view, workload, judgeAt));
}

function readySubject(view: JudgedCluster, workload: WorkloadObject, judgeAt: (at: EpochMs) => ClusterJudge): Subject {
  const namespace = workload.namespace ?? '';
  const key = workloadKey(workload);
  const pods = () => view.inventory.podsOf(namespace, key);
  /** What stands everywhere else of it: that pods are missing, else the first that is wrong. */
  const found = (at: EpochMs): Finding | undefined => {
    const findings = judgeAt(at).workload(workload, pods());
    return findings.find(({ code }) => isShort(code)) ?? findings[0];
  };
  const sinceOf = (at: EpochMs) => found(at)?.since ?? fewerReadySince(workload, pods());
  return {
    key: workload.uid,
    namespace,
    workload: key,
    verdict: (at) => (view.blind ? { is: 'noData' } : judgeReady(workload, () => sinceOf(at))),
    severity: (at) => found(at)?.severity ?? null,
    facts: (at, since) => {
      const finding = found(at);
      const missing = workload.desired - workload.ready;
      return {
        title: `${workload.name}: ${missing} of ${formatCount(workload.desired, 'pod')} not ready`,
        path: writePath({ is: 'workload', cluster: view.name, namespace, workload }),
        place: [view.name, namespace, `${workload.name} (${workload.kind})`],
        value: `${workload.ready} ready`,
        limit: `${workload.desired} desired`,
        share: workload.desired === 0 ? 0 : workload.ready / workload.desired,
        reason: finding?.reason ?? `${workload.ready} of ${workload.desired} pods are ready.`,
        evidence: finding?.evidence ?? '',
        changed: changedBefore(view.inventory, workload.uid, sinceOf(at) ?? since),
        nextStep: finding?.nextStep ?? 'Look at the findings of its pods.',
      };
    },
  };
}

/** What each kind of rule looks at. `above`: the share of a limit that it compares with. */
export const SUBJECTS: Readonly<Record<RuleKind, (view: JudgedCluster, above: number) => Iterable<Subject>>> = {
  containerMemory: memorySubjects,
  readyPods: readySubjects,
};
