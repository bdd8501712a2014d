import { formatBytes, formatCount } from '../format/index.ts';
import type { ClusterEvent, ContainerEnd, ContainerObject, PodObject } from '../inventory/index.ts';
import { notReadySince } from '../inventory/index.ts';
import {
  BEGINNING_REASONS,
  CONFIG_REASONS,
  EVENT_REASONS,
  IMAGE_REASONS,
  OUT_OF_MEMORY_REASON,
  RESTART_WAIT_REASON,
} from '../inventory/wire-names.ts';
import { type DurationMs, type EpochMs, HOUR } from '../units/index.ts';
import { calledOf, capital, endInWords, wasKilled } from './ends.ts';
import type { Finding } from './finding.ts';
import type { Room } from './placement.ts';
import { inItsWords, type Said, saidLately } from './said.ts';

/** A container that ended abnormally within this time is still worth a word, even when it runs again. */
const RECENT_END: DurationMs = HOUR;
/** Lines of a program that stand as evidence of how it ended. */
const LINES = 4;

/** A pod that is looked at, with what else is known of it. */
export interface Looked {
  readonly pod: PodObject;
  readonly now: EpochMs;
  /** What the cluster said about it, newest first. */
  readonly events: readonly ClusterEvent[];
  readonly said: Said;
  readonly rooms: (() => readonly Room[]) | undefined;
}

/** Why an image does not come, as far as the registry's words tell it. */
function pullInWords(message: string): { readonly why: string; readonly nextStep: string } {
  if (/toomanyrequests|rate limit|429/i.test(message))
    return {
      why: 'the registry gives out no more for now',
      nextStep: 'Wait, or pull it as somebody whom the registry allows more.',
    };
  if (/unauthorized|forbidden|denied|authentication required|no basic auth|401|403/i.test(message))
    return {
      why: 'the registry does not let this cluster in',
      nextStep: 'Check the pull secret of its service account, and that the registry lets it read this image.',
    };
  if (/no such host|timeout|timed out|connection refused|unreachable|dial tcp|x509|certificate/i.test(message))
    return {
      why: 'the registry is not reached',
      nextStep: 'Check from a node that the registry’s name is found and that its address answers.',
    };
  if (/not found|manifest unknown|does not exist/i.test(message))
    return { why: 'the registry does not know it', nextStep: 'Check the image’s name and tag.' };
  if (/never|not present with pull policy/i.test(message))
    return {
      why: 'it is not on the node and is never to be pulled',
      nextStep: 'Let it be pulled, or bring it to the nodes.',
    };
  if (/invalid|couldn't parse/i.test(message))
    return { why: 'its name is none', nextStep: 'Correct the image’s name where the workload is defined.' };
  return {
    why: '',
    nextStep: 'Check the image name and tag, and that the registry knows it and lets this cluster in.',
  };
}

function notPulled({
  looked: { pod, events, now },
  container,
  message,
  reason,
}: {
  readonly looked: Looked;
  readonly container: ContainerObject;
  readonly message: string;
  readonly reason: string;
}): Finding {
  // the wait tells that it failed, the event before tells why
  const told = events.find(
    (event) =>
      (EVENT_REASONS.pullFailed as readonly string[]).includes(event.reason) &&
      /pull|image/i.test(event.message) &&
      !/^Error: \w+$/.test(event.message),
  );
  const { why, nextStep } = pullInWords(
    `${message} ${told?.message ?? ''} ${reason === 'InvalidImageName' ? 'invalid' : ''}`,
  );
  return {
    code: 'imageNotPulled',
    severity: 'critical',
    reason: `Image ${container.image} of ${calledOf(container)} cannot be pulled${why === '' ? '' : `: ${why}`}.`,
    evidence: told && now - told.lastAt <= HOUR ? inItsWords(told) : message || reason,
    since: told ? Math.min(told.firstAt, notReadySince(pod) ?? told.firstAt) : (notReadySince(pod) ?? pod.createdAt),
    nextStep,
  };
}

/** A check that ends the container: the cluster says so when it does. */
function killingCheck({ events, now }: Looked, { name }: ContainerObject): ClusterEvent | undefined {
  const killed = events.find(
    ({ reason, message, lastAt }) =>
      reason === EVENT_REASONS.killed &&
      /failed (liveness|startup) probe/i.test(message) &&
      message.includes(name) &&
      now - lastAt <= HOUR,
  );
  if (!killed) return undefined;
  return (
    events.find(
      ({ reason, message }) => reason === EVENT_REASONS.checkFailed && /^(liveness|startup) probe/i.test(message),
    ) ?? killed
  );
}
const checkOf = ({ checks }: ContainerObject, { message }: ClusterEvent): string => {
  const start = /startup/i.test(message);
  const words = start ? checks?.start : checks?.live;
  return `its ${start ? 'start' : 'liveness'} check${words === undefined ? '' : ` (${words})`}`;
};

/** What proves how a container ended: its own last words, else the cluster's. */
export function lastWords({
  looked: { pod, said },
  container,
  end,
  previous,
}: {
  readonly looked: Looked;
  readonly container: ContainerObject;
  readonly end: ContainerEnd | null;
  readonly previous: boolean;
}): string {
  if (end?.message) return end.message;
  const lines = said.lastLines?.(pod.name, container.name, previous) ?? [];
  return lines
    .filter((line) => line.trim() !== '')
    .slice(-LINES)
    .join('\n');
}

/** Since when it keeps ending, as far as the cluster tells: its ends are counted, and the pod is not ready meanwhile. */
function failingSince({ pod, events, now }: Looked, end: ContainerEnd | null): EpochMs {
  const waits = saidLately(events, EVENT_REASONS.waitsToRestart, now);
  const proofs = [end?.endedAt, notReadySince(pod), waits?.firstAt].filter((at) => at != null);
  return proofs.length === 0 ? pod.createdAt : Math.max(pod.createdAt, Math.min(...proofs));
}

function restartWait(looked: Looked, container: ContainerObject, message: string): Finding {
  const end = container.lastEnd;
  const memory = end?.reason === OUT_OF_MEMORY_REASON;
  const check = end && !memory && wasKilled(end) ? killingCheck(looked, container) : undefined;
  const startUp = container.role === 'start-up';
  const called = capital(calledOf(container));
  const times = `${formatCount(container.restarts, 'time')} so far`;
  const again = `${times}; the cluster waits before the next start${startUp ? ', and the pod cannot begin' : ''}`;
  return {
    code: memory ? 'outOfMemory' : check ? 'killedByCheck' : startUp ? 'startUpFailed' : 'keepsRestarting',
    severity: 'critical',
    reason: check
      ? `${called} does not pass ${checkOf(container, check)} and is ended for it, ${again}.`
      : end?.exitCode === 0
        ? `${called} keeps ending by itself with code 0, ${again}. What is done is started again.`
        : `${called} keeps ending${end ? ` with ${endInWords(end)}` : ''}, ${again}.`,
    evidence:
      (check ? inItsWords(check) : lastWords({ looked, container, end, previous: true })) ||
      message ||
      RESTART_WAIT_REASON,
    since: failingSince(looked, end),
    nextStep: check
      ? 'Try the check by hand: the program is too slow for it, or it asks the wrong place. Give it more time before it ends the container.'
      : memory
        ? 'Look at its memory before the end: a steady climb is a leak, a jump is load. Raise the limit only for load.'
        : end?.exitCode === 0
          ? 'Make it a job if it is to end; else look why it does not stay.'
          : 'Read the last lines of the ended instance and compare the image and settings with the version before.',
  };
}

export function waiting(looked: Looked, container: ContainerObject): Finding | null {
  if (container.state.is !== 'waiting') return null;
  const { pod } = looked;
  const { reason, message } = container.state;
  if (IMAGE_REASONS.has(reason)) return notPulled({ looked, container, message, reason });
  if (reason === RESTART_WAIT_REASON) return restartWait(looked, container, message);
  if (BEGINNING_REASONS.has(reason)) return null;
  const lacks = /(configmap|secret) "([^"]+)" not found/i.exec(message);
  const key = /couldn't find key (\S+) in (ConfigMap|Secret) (\S+)/i.exec(message);
  const what = lacks
    ? `: ${lacks[1]?.toLowerCase() === 'secret' ? 'secret' : 'config map'} ${lacks[2]} does not exist`
    : key
      ? `: ${key[2]?.toLowerCase() === 'secret' ? 'secret' : 'config map'} ${key[3]} has no key ${key[1]}`
      : CONFIG_REASONS.has(reason)
        ? ''
        : `: ${reason}`;
  return {
    code: 'cannotStart',
    severity: 'critical',
    reason: `${capital(calledOf(container))} cannot be started${what}.`,
    evidence: message || reason,
    since: notReadySince(pod) ?? pod.createdAt,
    nextStep:
      lacks || key
        ? 'Make what is missing, or correct its name where the workload is defined.'
        : 'Check that everything its specification names (settings, secrets, command) exists.',
  };
}

/** A container that ended abnormally a short while ago: it runs again, or is about to be started again. */
export function recentEnd(looked: Looked, container: ContainerObject): Finding | null {
  const { now } = looked;
  if (container.role === 'start-up') return null;
  const runs = container.state.is === 'running';
  const again = runs ? 'was restarted' : 'is about to be started again';
  const end = container.state.is === 'ended' ? container.state : runs ? container.lastEnd : null;
  if (!end || end.endedAt === null || now - end.endedAt > RECENT_END) return null;
  const called = capital(calledOf(container));
  const soFar = `${formatCount(container.restarts, 'restart')} so far`;
  if (end.reason === OUT_OF_MEMORY_REASON) {
    return {
      code: 'outOfMemory',
      severity: 'warning',
      reason: `${called} ran out of memory at its limit of ${formatBytes(container.memoryLimit)} and ${again}.`,
      evidence: `ended with ${endInWords(end)}; ${soFar}`,
      since: end.endedAt,
      nextStep:
        'Look at its memory before the end: a steady climb is a leak, a jump is load. Raise the limit only for load.',
    };
  }
  if (end.exitCode === 0) return null;
  const check = wasKilled(end) ? killingCheck(looked, container) : undefined;
  return {
    code: check ? 'killedByCheck' : 'keepsRestarting',
    severity: 'warning',
    reason: check
      ? `${called} did not pass ${checkOf(container, check)}, was ended for it and ${again}.`
      : `${called} ended with ${endInWords(end)} and ${again}.`,
    evidence: (check ? inItsWords(check) : lastWords({ looked, container, end, previous: runs })) || soFar,
    since: end.endedAt,
    nextStep: check
      ? 'Try the check by hand: the program is too slow for it, or it asks the wrong place.'
      : 'Read the last lines of the ended instance.',
  };
}

export function startUp(looked: Looked): Finding | null {
  const failing = looked.pod.containers.find(
    (container) =>
      container.role === 'start-up' && container.state.is === 'ended' && (container.state.exitCode ?? 0) !== 0,
  );
  if (failing?.state.is !== 'ended') return null;
  return {
    code: 'startUpFailed',
    severity: 'critical',
    reason: `Start-up container ${failing.name} ended with ${endInWords(failing.state)}; the pod cannot begin.`,
    evidence: lastWords({ looked, container: failing, end: failing.state, previous: false }) || failing.state.reason,
    since: failing.state.endedAt,
    nextStep: 'Read what the start-up container wrote.',
  };
}
