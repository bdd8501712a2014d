import { formatCount } from '../format/index.ts';
import type { ClusterEvent, PodObject, WorkloadObject } from '../inventory/index.ts';
import { conditionOf, hasEnded, isReady, notReadySince } from '../inventory/index.ts';
import { EVENT_REASONS, ROLLOUT_LATE_REASON } from '../inventory/wire-names.ts';
import { type DurationMs, type EpochMs, HOUR, MINUTE } from '../units/index.ts';
import { deletionFindings } from './deletion.ts';
import { byWeight, type Finding } from './finding.ts';
import { type Around, podFindings } from './podFindings.ts';
import { inItsWords, saidLately } from './said.ts';

/**
 * Since when fewer pods are ready than desired, as far as its pods prove it: it began with the first that had to be there
 * and was not. Null when enough are ready, or when pods that do not exist leave no trace of it.
 */
export function fewerReadySince(workload: WorkloadObject, pods: readonly PodObject[]): EpochMs | null {
  const missing = workload.desired - workload.ready;
  if (missing <= 0 || pods.length < workload.present) return null;
  const since = pods
    .filter((pod) => !hasEnded(pod) && !isReady(pod))
    .map((pod) => notReadySince(pod) ?? pod.createdAt)
    .sort((a, b) => a - b);
  // those beyond the desired number could stand in for the first that were missing
  return since[since.length - missing] ?? null;
}

interface Cause {
  readonly finding: Finding;
  readonly pods: number;
}
/** A workload that is looked at, with what else is known of it. */
interface LookedAt {
  readonly workload: WorkloadObject;
  readonly pods: readonly PodObject[];
  readonly now: EpochMs;
  readonly around?: Around;
  /** What the cluster said about it and about what it owns, newest first. */
  readonly events?: readonly ClusterEvent[];
}

/** One cause, one entry: pods that fail for the same reason are counted together, the most frequent cause first. */
function causesOf({ workload, pods, now, around }: LookedAt): Cause[] {
  const causes = new Map<string, { finding: Finding; pods: number }>();
  const whole = workload.ready >= workload.desired;
  for (const pod of pods) {
    for (const finding of podFindings(pod, now, around)) {
      // a pod that failed and was replaced is history
      if (pod.phase === 'failed' && (whole || now - (finding.since ?? pod.createdAt) > HOUR)) continue;
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

/** What was asked for so lately that it may still be on its way. */
const YOUNG: DurationMs = 2 * MINUTE;
/** Pods that are missing without a reason are missed once they had time to come. */
function mayStillCome({ workload, pods, now }: LookedAt): boolean {
  const missing = workload.desired - workload.ready;
  const young = pods.filter((pod) => !hasEnded(pod) && !isReady(pod) && now - pod.createdAt < YOUNG).length;
  if (young >= missing) return true;
  const moves = conditionOf(workload.conditions, 'Progressing');
  const asked = moves?.status === 'true' ? (moves.since ?? workload.createdAt) : workload.createdAt;
  return pods.length < workload.desired && now - asked < YOUNG;
}

/**
 * Why a workload does not do what was asked of it: its own counts first, then what its pods say. Severities are those of
 * a pod alone: what still serves weighs them (`weighed`).
 */
export function workloadFindings(looked: LookedAt): Finding[] {
  const { workload, pods, now, events = [] } = looked;
  const causes = causesOf(looked);
  const found: Finding[] = [];
  const missing = workload.desired - workload.ready;
  const lead = causes[0];
  if (missing > 0 && !workload.paused) {
    const late = conditionOf(workload.conditions, 'Progressing');
    const refused = conditionOf(workload.conditions, 'ReplicaFailure');
    const told = saidLately(events, EVENT_REASONS.createFailed, now);
    const cannot =
      workload.present >= workload.desired
        ? null
        : refused?.status === 'true'
          ? { message: refused.message || refused.reason, since: refused.since }
          : told
            ? { message: inItsWords(told), since: told.firstAt }
            : null;
    const stuck = workload.kind === 'deployment' && late?.status === 'false' && late.reason === ROLLOUT_LATE_REASON;
    if (cannot) found.push(cannotCreate(workload, cannot));
    else if (stuck || lead || !mayStillCome(looked))
      found.push({
        code: stuck ? 'rolloutStuck' : 'fewerReady',
        severity: 'critical',
        reason:
          `${missing} of ${formatCount(workload.desired, 'pod')} ${missing === 1 ? 'is' : 'are'} not ready` +
          `${stuck ? ' and the rollout does not go on' : ''}${holdsUp(looked)}${lead ? `: ${lowerFirst(lead.finding.reason)}` : '.'}${stuck ? servingOf(workload) : ''}`,
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
    if (found[0] && found[0].code !== 'cannotCreate' && cause === lead) continue; // it stands in the line above
    found.push({ ...finding, reason: `${finding.reason}${same}` });
  }
  return [...found, ...deletionFindings(workload, now)].sort(byWeight);
}

function servingOf(workload: WorkloadObject): string {
  const old = workload.present - workload.updated;
  if (old <= 0 || workload.ready === 0) return '';
  return ` The ${old === 1 ? 'old pod still serves' : `${old} old pods still serve`}.`;
}
/** Pods of a stateful set begin one after the other: the first that is not ready holds up those behind it. */
function holdsUp({ workload, pods }: LookedAt): string {
  if (workload.kind !== 'stateful set' || workload.present >= workload.desired) return '';
  const place = ({ name }: PodObject) => Number(/-(\d+)$/.exec(name)?.[1] ?? Number.POSITIVE_INFINITY);
  const [first] = pods.filter((pod) => !isReady(pod)).sort((a, b) => place(a) - place(b));
  return first ? `, ${first.name} holds the others up` : '';
}

/** The cluster refuses to create its pods, and says why. */
function cannotCreate(
  workload: WorkloadObject,
  { message, since }: { readonly message: string; readonly since: EpochMs | null },
): Finding {
  const missing = workload.desired - workload.present;
  const which = `${missing} of ${formatCount(workload.desired, 'pod')} cannot be created`;
  const quota = /exceeded quota/i.test(message);
  const account = /serviceaccount "([^"]+)" not found/i.exec(message);
  const policy = /violates PodSecurity|security policy|denied the request|admission webhook/i.test(message);
  return {
    code: 'cannotCreate',
    severity: 'critical',
    reason: quota
      ? `${which}: the quota of ${workload.namespace} is spent.`
      : account
        ? `${which}: there is no service account ${account[1]}.`
        : policy
          ? `${which}: a policy of the cluster refuses them.`
          : `${which}: the cluster refuses them.`,
    evidence: message,
    since,
    nextStep: quota
      ? 'Ask for less in its pods, let others of the namespace ask for less, or raise the quota.'
      : 'Do what the refusal asks for; the change to its template is made where it is defined.',
  };
}

/** Names of images and containers keep their case; an ordinary first word loses its capital inside a sentence. */
function lowerFirst(sentence: string): string {
  return /^[A-Z][a-z]/.test(sentence) ? sentence.charAt(0).toLowerCase() + sentence.slice(1) : sentence;
}
