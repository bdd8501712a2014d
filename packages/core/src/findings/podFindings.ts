import { formatBytes, formatCount } from '../format/index.ts';
import type { ContainerEnd, ContainerObject, PodObject } from '../inventory/index.ts';
import {
  CONFIG_REASONS,
  EVICTED_REASON,
  IMAGE_REASONS,
  OUT_OF_MEMORY_REASON,
  RESTART_WAIT_REASON,
} from '../inventory/wire-names.ts';
import { type DurationMs, type EpochMs, HOUR, MINUTE } from '../units/index.ts';
import { byWeight, type Finding } from './finding.ts';
import { placementInWords, type Room } from './placement.ts';
import { conditionOf, notReadySince } from './podState.ts';

/** A container that ended abnormally within this time is still worth a word, even when it runs again. */
const RECENT_END: DurationMs = HOUR;
/** A young pod may take this long to become ready before anybody is told. */
const START_GRACE: DurationMs = 2 * MINUTE;

function endInWords(end: ContainerEnd): string {
  if (end.reason === OUT_OF_MEMORY_REASON) return `code ${end.exitCode ?? 137}, out of memory`;
  if (end.signal) return `signal ${end.signal}`;
  return `code ${end.exitCode ?? 'unknown'}`;
}

function waiting(pod: PodObject, container: ContainerObject): Finding | null {
  if (container.state.is !== 'waiting') return null;
  const { reason, message } = container.state;
  const since = notReadySince(pod) ?? pod.createdAt;
  if (IMAGE_REASONS.has(reason)) {
    return {
      code: 'imageNotPulled',
      severity: 'critical',
      reason: `Image ${container.image} of container ${container.name} cannot be pulled.`,
      evidence: message || reason,
      since,
      nextStep: 'Check the image name and tag, and that the registry knows it and lets this cluster in.',
    };
  }
  if (reason === RESTART_WAIT_REASON) {
    const end = container.lastEnd;
    return {
      code: end?.reason === OUT_OF_MEMORY_REASON ? 'outOfMemory' : 'keepsRestarting',
      severity: 'critical',
      reason: `Container ${container.name} keeps ending${end ? ` with ${endInWords(end)}` : ''}, ${formatCount(container.restarts, 'time')} so far; the cluster waits before the next start.`,
      evidence: end?.message || message || reason,
      since: end?.endedAt ?? since,
      nextStep: 'Read the last lines of the ended instance and compare the image and settings with the version before.',
    };
  }
  if (CONFIG_REASONS.has(reason)) {
    return {
      code: 'cannotStart',
      severity: 'critical',
      reason: `Container ${container.name} cannot be started.`,
      evidence: message || reason,
      since,
      nextStep: 'Check that everything its specification names (settings, secrets, command) exists.',
    };
  }
  return null;
}

/** A container that ended abnormally a short while ago: it runs again, or is about to be started again. */
function recentEnd(container: ContainerObject, now: EpochMs): Finding | null {
  if (container.role === 'start-up') return null;
  const again = container.state.is === 'running' ? 'was restarted' : 'is about to be started again';
  const end =
    container.state.is === 'ended' ? container.state : container.state.is === 'running' ? container.lastEnd : null;
  if (!end || end.endedAt === null || now - end.endedAt > RECENT_END) return null;
  if (end.reason === OUT_OF_MEMORY_REASON) {
    return {
      code: 'outOfMemory',
      severity: 'warning',
      reason: `Container ${container.name} ran out of memory at its limit of ${formatBytes(container.memoryLimit)} and ${again}.`,
      evidence: `ended with ${endInWords(end)}; ${formatCount(container.restarts, 'restart')} so far`,
      since: end.endedAt,
      nextStep:
        'Look at its memory before the end: a steady climb is a leak, a jump is load. Raise the limit only for load.',
    };
  }
  if (end.exitCode === 0) return null;
  return {
    code: 'keepsRestarting',
    severity: 'warning',
    reason: `Container ${container.name} ended with ${endInWords(end)} and ${again}.`,
    evidence: end.message || `${formatCount(container.restarts, 'restart')} so far`,
    since: end.endedAt,
    nextStep: 'Read the last lines of the ended instance.',
  };
}

function placement(pod: PodObject, now: EpochMs, rooms: (() => readonly Room[]) | undefined): Finding | null {
  const placed = conditionOf(pod.conditions, 'PodScheduled');
  if (pod.node !== null || placed?.status !== 'false') return null;
  if (now - (placed.since ?? pod.createdAt) < MINUTE / 2) return null;
  return {
    code: 'cannotBePlaced',
    severity: 'critical',
    reason: 'No node can take this pod.',
    evidence: rooms ? placementInWords(pod, rooms()) : placed.message || placed.reason,
    since: placed.since ?? pod.createdAt,
    nextStep: 'Compare its requests with what the nodes have left, and its node selection with the nodes’ labels.',
  };
}

function startUp(pod: PodObject): Finding | null {
  const failing = pod.containers.find(
    (container) =>
      container.role === 'start-up' && container.state.is === 'ended' && (container.state.exitCode ?? 0) !== 0,
  );
  if (failing?.state.is !== 'ended') return null;
  return {
    code: 'startUpFailed',
    severity: 'critical',
    reason: `Start-up container ${failing.name} ended with ${endInWords(failing.state)}; the pod cannot begin.`,
    evidence: failing.state.message || failing.state.reason,
    since: failing.state.endedAt,
    nextStep: 'Read what the start-up container wrote.',
  };
}

/** Which check of a container is not passed. */
function checkInWords({ name, state, checks, started }: ContainerObject): string {
  if (state.is !== 'running') return `${name} does not run`;
  if (checks?.start !== undefined && started === false)
    return `${name} has not passed its start check (${checks.start})`;
  return `${name} does not pass its ready check${checks?.ready === undefined ? '' : ` (${checks.ready})`}`;
}

/**
 * Why a pod does not do what was asked of it. Empty when it does. `rooms` are asked for when it stands nowhere: then the
 * reason is told per node.
 */
export function podFindings(pod: PodObject, now: EpochMs, rooms?: () => readonly Room[]): Finding[] {
  if (pod.phase === 'succeeded') return [];
  if (pod.phase === 'failed') {
    const evicted = pod.reason === EVICTED_REASON;
    return [
      {
        code: evicted ? 'evicted' : 'failed',
        severity: 'warning',
        reason: evicted ? `Evicted from node ${pod.node ?? 'unknown'}.` : 'The pod failed and will not run again.',
        evidence: pod.message || pod.reason,
        since: conditionOf(pod.conditions, 'Ready')?.since ?? null,
        nextStep: evicted ? 'Look at the node’s memory and disk at that time.' : 'Read what its containers wrote.',
      },
    ];
  }
  const found: Finding[] = [];
  const add = (finding: Finding | null) => finding && found.push(finding);
  add(placement(pod, now, rooms));
  add(startUp(pod));
  for (const container of pod.containers) {
    add(waiting(pod, container));
    add(recentEnd(container, now));
  }
  const since = notReadySince(pod);
  const explained = found.some((finding) => finding.severity === 'critical');
  if (since !== null && !explained && pod.deletingSince === null && now - since >= START_GRACE) {
    const unready = pod.containers.filter((container) => container.role !== 'start-up' && !container.ready);
    const unknown = pod.phase === 'unknown' || conditionOf(pod.conditions, 'Ready')?.status === 'unknown';
    found.push({
      code: unknown ? 'unknown' : 'notReady',
      severity: 'warning',
      reason: unknown
        ? 'The node does not report on this pod: its state is unknown.'
        : unready.length > 0
          ? `Not ready: ${unready.map(checkInWords).join('; ')}.`
          : 'Its containers are ready and the pod is not: its node may have stopped reporting, or something outside holds it back.',
      evidence: conditionOf(pod.conditions, 'Ready')?.message || pod.phase,
      since,
      nextStep:
        unknown || unready.length === 0
          ? 'Look at the node.'
          : 'Try its readiness check by hand and read what the container wrote.',
    });
  }
  return found.sort(byWeight);
}
