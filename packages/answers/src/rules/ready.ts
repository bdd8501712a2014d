import { writePath } from '@zetopsis/contract';
import { type Finding, fewerReadySince, isShort } from '@zetopsis/core/findings';
import { formatCount } from '@zetopsis/core/format';
import { isKeeper, type WorkloadObject, workloadKey } from '@zetopsis/core/inventory';
import { bothLevels, bySeverity, lacksPods } from '@zetopsis/core/rules';
import type { EpochMs } from '@zetopsis/core/units';
import { type ClusterJudge, judgeOf } from '../findings/index.ts';
import { changedBefore } from './changedBefore.ts';
import type { JudgedCluster, Subject } from './subject.ts';

/** Workloads that keep a number of pods. */
export function readySubjects(view: JudgedCluster): Subject[] {
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
  const sinceOf = (finding: Finding | undefined) => finding?.since ?? fewerReadySince(workload, pods());
  const value = `${workload.ready} ready of ${workload.desired} desired`;
  return {
    key: workload.uid,
    path: { is: 'workload', cluster: view.name, namespace, workload },
    name: workload.name,
    there: true,
    verdicts: (at) => {
      if (view.blind) return bothLevels({ is: 'noData' });
      if (!lacksPods(workload)) return bothLevels({ is: 'breaks' });
      const finding = found(at);
      return bySeverity(finding?.severity ?? 'warning', sinceOf(finding));
    },
    value: () => value,
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
        changed: changedBefore(view.inventory, workload.uid, sinceOf(finding) ?? since),
        nextStep: finding?.nextStep ?? 'Look at the findings of its pods.',
      };
    },
  };
}
