import { formatCount } from '../format/index.ts';
import type { PodObject, WorkloadObject } from '../inventory/index.ts';
import { ROLLOUT_LATE_REASON } from '../inventory/wire-names.ts';
import type { EpochMs } from '../units/index.ts';
import { byWeight, type Finding } from './finding.ts';
import type { Room } from './placement.ts';
import { podFindings } from './podFindings.ts';
import { conditionOf, hasEnded, isReady, notReadySince } from './podState.ts';

/**
 * Since when fewer pods are ready than desired, as far as the objects prove it: of the pods that are missing now, the
 * one that stopped being ready last. From then on none of them was. Null when enough are ready, or nothing proves it
 * (pods that do not exist leave no trace; pods beyond the desired number could have stood in).
 */
export function fewerReadySince(workload: WorkloadObject, pods: readonly PodObject[]): EpochMs | null {
  const missing = workload.desired - workload.ready;
  if (missing <= 0 || workload.present > workload.desired) return null;
  const since = pods
    .filter((pod) => !hasEnded(pod) && !isReady(pod))
    .map((pod) => notReadySince(pod) ?? pod.createdAt)
    .sort((a, b) => a - b);
  return since.length < missing ? null : since[missing - 1]!;
}

interface Cause {
  readonly finding: Finding;
  readonly pods: number;
}

/** One cause, one entry: pods that fail for the same reason are counted together, the most frequent cause first. */
function causesOf(pods: readonly PodObject[], now: EpochMs, rooms: (() => readonly Room[]) | undefined): Cause[] {
  const causes = new Map<string, { finding: Finding; pods: number }>();
  for (const pod of pods) {
    for (const finding of podFindings(pod, now, rooms)) {
      const known = causes.get(`${finding.code} ${finding.reason}`);
      if (!known) causes.set(`${finding.code} ${finding.reason}`, { finding, pods: 1 });
      else {
        known.pods++;
        if ((finding.since ?? now) < (known.finding.since ?? now))
          known.finding = { ...finding, evidence: known.finding.evidence };
      }
    }
  }
  return [...causes.values()].sort((a, b) => byWeight(a.finding, b.finding) || b.pods - a.pods);
}

/** Why a workload does not do what was asked of it: its own counts first, then what its pods say. */
export function workloadFindings(
  workload: WorkloadObject,
  pods: readonly PodObject[],
  now: EpochMs,
  rooms?: () => readonly Room[],
): Finding[] {
  const causes = causesOf(pods, now, rooms);
  const found: Finding[] = [];
  const missing = workload.desired - workload.ready;
  const lead = causes[0];
  if (missing > 0 && !workload.paused) {
    const late = conditionOf(workload.conditions, 'Progressing');
    const refused = conditionOf(workload.conditions, 'ReplicaFailure');
    const cannot = refused?.status === 'true' && workload.present < workload.desired ? refused : null;
    const stuck = workload.kind === 'deployment' && late?.status === 'false' && late.reason === ROLLOUT_LATE_REASON;
    const explained = lead?.finding.severity === 'critical';
    const old = workload.present - workload.updated;
    const serving =
      stuck && old > 0 && workload.ready > 0
        ? ` The ${old === 1 ? 'old pod still serves' : `${old} old pods still serve`}.`
        : '';
    if (cannot) found.push(cannotCreate(workload, cannot));
    else
      found.push({
        code: stuck ? 'rolloutStuck' : 'fewerReady',
        severity: stuck || workload.ready === 0 || explained ? 'critical' : 'warning',
        reason:
          `${missing} of ${formatCount(workload.desired, 'pod')} ${missing === 1 ? 'is' : 'are'} not ready` +
          `${stuck ? ' and the rollout does not go on' : ''}${lead ? `: ${lowerFirst(lead.finding.reason)}` : '.'}${serving}`,
        evidence: lead?.finding.evidence ?? (late?.message || `${workload.present} of ${workload.desired} pods exist`),
        since: fewerReadySince(workload, pods) ?? lead?.finding.since ?? late?.since ?? null,
        nextStep:
          lead?.finding.nextStep ??
          'Look at the events of its replica set: something keeps the cluster from creating pods.',
      });
  }
  for (const cause of causes) {
    const { finding } = cause;
    const same = cause.pods === 1 ? '' : ` (${cause.pods} pods)`;
    if (found[0] && cause === lead) continue; // it stands in the line above
    found.push({ ...finding, reason: `${finding.reason}${same}` });
  }
  return found.sort(byWeight);
}

/** The cluster refuses to create its pods, and says why. */
function cannotCreate(workload: WorkloadObject, refused: WorkloadObject['conditions'][number]): Finding {
  const missing = workload.desired - workload.present;
  const quota = /exceeded quota/i.test(refused.message);
  return {
    code: 'cannotCreate',
    severity: 'critical',
    reason: quota
      ? `${missing} of ${formatCount(workload.desired, 'pod')} cannot be created: the quota of ${workload.namespace} is spent.`
      : `${missing} of ${formatCount(workload.desired, 'pod')} cannot be created: the cluster refuses them.`,
    evidence: refused.message || refused.reason,
    since: refused.since,
    nextStep: quota
      ? 'Ask for less in its pods, let others of the namespace ask for less, or raise the quota.'
      : 'Do what the refusal asks for; the change to its template is made where it is defined.',
  };
}

/** Names of images and containers keep their case; an ordinary first word loses its capital inside a sentence. */
function lowerFirst(sentence: string): string {
  return /^[A-Z][a-z]/.test(sentence) ? sentence.charAt(0).toLowerCase() + sentence.slice(1) : sentence;
}
