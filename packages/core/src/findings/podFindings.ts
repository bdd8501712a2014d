import { formatDuration } from '../format/index.ts';
import type { ContainerObject, NodeObject, PodObject } from '../inventory/index.ts';
import { conditionOf, isReady, notReadySince } from '../inventory/index.ts';
import { EVENT_REASONS, EVICTED_REASON } from '../inventory/wire-names.ts';
import { type DurationMs, type EpochMs, MINUTE } from '../units/index.ts';
import { type Looked, lastWords, recentEnd, startUp, waiting } from './containerFindings.ts';
import { deletionFindings } from './deletion.ts';
import { calledOf, capital, endInWords } from './ends.ts';
import { byWeight, type Finding } from './finding.ts';
import { placementInWords, type Room } from './placement.ts';
import { inItsWords, NOTHING_SAID, type Said, saidLately } from './said.ts';
import { schedulerInWords } from './schedulerWords.ts';

/** A young pod may take this long to become ready before anybody is told. */
const START_GRACE: DurationMs = 2 * MINUTE;
/** What the scheduler itself says comes first; what we reckon stands beside it. */
function placement({ pod, now, events, rooms }: Looked): Finding | null {
  const placed = conditionOf(pod.conditions, 'PodScheduled');
  if (pod.node !== null || placed?.status !== 'false') return null;
  const since = placed.since ?? pod.createdAt;
  if (now - since < MINUTE / 2) return null;
  const message = placed.message || saidLately(events, EVENT_REASONS.notPlaced, now)?.message || '';
  const counted = schedulerInWords(message);
  const claim = /persistentvolumeclaim "([^"]+)" not found/i.exec(message);
  const unbound = /unbound (immediate )?PersistentVolumeClaims/i.test(message);
  const held = placed.reason === 'SchedulingGated';
  const own = rooms ? placementInWords(pod, rooms()) : '';
  return {
    code: 'cannotBePlaced',
    severity: 'critical',
    reason: held
      ? 'It is not to be placed yet: a gate of its own holds it.'
      : claim
        ? `No node can take this pod: its volume claim ${claim[1]} does not exist.`
        : unbound
          ? 'No node can take this pod: a volume claim of it is not bound.'
          : `No node can take this pod${counted === null ? '' : `: ${counted}`}.`,
    evidence: [message || placed.reason, own].filter((part) => part !== '').join(' · '),
    since,
    nextStep: held
      ? 'Look at the program that set its scheduling gates.'
      : claim || unbound
        ? 'Look at the claim: its own sheet says what it waits for.'
        : 'Compare its requests with what the nodes have left, and its node selection with the nodes’ labels.',
  };
}

/** A pod that stands on a node and whose containers cannot be begun: the cluster says why. */
function beginning({ pod, now, events }: Looked): Finding | null {
  if (pod.node === null || pod.phase !== 'pending') return null;
  const attach = saidLately(events, EVENT_REASONS.attachFailed, now);
  const mount = saidLately(events, EVENT_REASONS.mountFailed, now);
  const sandbox = saidLately(events, EVENT_REASONS.sandboxFailed, now);
  const told = attach ?? mount ?? sandbox;
  if (!told) return null;
  const lacks = /(configmap|secret|persistentvolumeclaim) "([^"]+)" not found/i.exec(told.message);
  const KINDS: Record<string, string> = {
    configmap: 'config map',
    secret: 'secret',
    persistentvolumeclaim: 'volume claim',
  };
  const elsewhere = /multi-attach|already (?:exclusively )?attached/i.test(told.message);
  return {
    code: told === sandbox ? 'cannotSetUp' : 'cannotMount',
    severity: 'critical',
    reason:
      told === sandbox
        ? `Node ${pod.node} cannot set the pod up: its sandbox or network fails.`
        : elsewhere
          ? 'A volume of it is attached to another node, and can be on one only.'
          : lacks
            ? `${capital(KINDS[lacks[1]!.toLowerCase()] ?? 'object')} ${lacks[2]}, which it mounts, does not exist.`
            : `A volume of it cannot be ${told === attach ? 'attached' : 'mounted'}.`,
    evidence: inItsWords(told),
    since: told.firstAt,
    nextStep:
      told === sandbox
        ? 'Look at the network programs of that node.'
        : elsewhere
          ? 'Look for the pod that holds it: on a lost node it has to be let go by hand.'
          : lacks
            ? 'Make what is missing, or correct its name where the workload is defined.'
            : 'Look at the claim, its volume, and the storage programs on the node.',
  };
}

/** Why a node does not take what the cluster gave it. */
const REFUSALS =
  /^(OutOf|NodeAffinity|NodePorts|NodeName|Unexpected|UnexpectedAdmissionError|InvalidNodeInfo|NodeShutdown|Shutdown|Pod[A-Z]\w*NotSupported|SysctlForbidden)/;

/** A pod that failed as a whole: put out by its node, by one more important, or by its own containers. */
function failedPod(looked: Looked): Finding {
  const { pod } = looked;
  const evicted = pod.reason === EVICTED_REASON;
  const disrupted = conditionOf(pod.conditions, 'DisruptionTarget');
  const preempted = pod.reason === 'Preempting' || disrupted?.reason === 'PreemptionByScheduler';
  const container = pod.containers.find(({ state }) => state.is === 'ended' && (state.exitCode ?? 0) !== 0);
  const end = container?.state.is === 'ended' ? container.state : null;
  const since = conditionOf(pod.conditions, 'Ready')?.since ?? end?.endedAt ?? disrupted?.since ?? null;
  if (evicted || preempted)
    return {
      code: evicted ? 'evicted' : 'preempted',
      severity: 'warning',
      reason: evicted
        ? `Evicted from node ${pod.node ?? 'unknown'}.`
        : 'It was put out to make room for a pod of higher priority.',
      evidence: pod.message || disrupted?.message || pod.reason,
      since,
      nextStep: evicted
        ? 'Look at the node’s memory and disk at that time.'
        : 'Look whether its priority is what it should be, or whether the cluster is too small.',
    };
  const refused = end === null && REFUSALS.test(pod.reason);
  return {
    code: 'failed',
    severity: 'warning',
    reason: refused
      ? `Node ${pod.node ?? 'unknown'} did not take the pod: ${pod.reason}.`
      : container && end
        ? `The pod failed and will not run again: ${calledOf(container)} ended with ${endInWords(end)}.`
        : `The pod failed and will not run again${pod.reason === '' ? '' : `: ${pod.reason}`}.`,
    evidence:
      pod.message ||
      (container ? lastWords({ looked, container, end, previous: false }) : '') ||
      pod.reason ||
      'the cluster says no more',
    since,
    nextStep: refused
      ? 'Look at the node: it has less room than the cluster thought.'
      : 'Read what its containers wrote.',
  };
}

/** Which check of a container is not passed. */
function checkInWords({ name, state, checks, started }: ContainerObject): string {
  if (state.is !== 'running') return `${name} does not run`;
  if (checks?.start !== undefined && started === false)
    return `${name} has not passed its start check (${checks.start})`;
  return `${name} does not pass its ready check${checks?.ready === undefined ? '' : ` (${checks.ready})`}`;
}

/** What is known around a pod. */
export interface Around {
  /** Asked for when it stands nowhere: then the reason is told per node. */
  readonly rooms?: (() => readonly Room[]) | undefined;
  /** What the cluster said about it, which comes before what we reckon. */
  readonly said?: Said;
  /** A node that is lost, by its name. */
  readonly lost?: ((node: string) => NodeObject | undefined) | undefined;
}

/** Its node is the cause: whatever else it says of itself is from before. */
function onLostNode(node: NodeObject, now: EpochMs): Finding {
  const ready = conditionOf(node.conditions, 'Ready');
  const silent = ready?.status === 'unknown';
  const since = ready?.since ?? null;
  return {
    code: 'unknown',
    severity: 'critical',
    reason: silent
      ? `Its node ${node.name} has stopped reporting: what it does there is unknown.`
      : `Its node ${node.name} is not ready.`,
    evidence:
      ready?.message || ready?.reason || `${node.name}${since === null ? '' : `, for ${formatDuration(now - since)}`}`,
    since,
    nextStep: `Look at node ${node.name}: the cluster moves its pods elsewhere after a while.`,
  };
}

/** Why a pod does not do what was asked of it. Empty when it does. */
export function podFindings(
  pod: PodObject,
  now: EpochMs,
  { rooms, said = NOTHING_SAID, lost }: Around = {},
): Finding[] {
  if (pod.phase === 'succeeded') return [];
  const looked: Looked = { pod, now, events: said.about(pod), said, rooms };
  if (pod.phase === 'failed') return [failedPod(looked)];
  // it is to go: how its containers end is as it was asked for
  if (pod.deletingSince !== null) return deletionFindings(pod, now);
  const away = pod.node !== null && !isReady(pod) ? lost?.(pod.node) : undefined;
  if (away) return [onLostNode(away, now)];
  const found: Finding[] = [];
  const add = (finding: Finding | null) => finding && found.push(finding);
  add(placement(looked));
  add(startUp(looked));
  for (const container of pod.containers) {
    add(waiting(looked, container));
    add(recentEnd(looked, container));
  }
  if (found.length === 0) add(beginning(looked));
  const explained = found.some((finding) => finding.severity === 'critical');
  if (!explained) add(notReady(looked));
  return found.sort(byWeight);
}

function notReady({ pod, now, events }: Looked): Finding | null {
  const since = notReadySince(pod);
  if (since === null || now - since < START_GRACE) return null;
  const unready = pod.containers.filter((container) => container.role !== 'start-up' && !container.ready);
  const unknown = pod.phase === 'unknown' || conditionOf(pod.conditions, 'Ready')?.status === 'unknown';
  const gate = pod.conditions.find(
    ({ type, status }) => status === 'false' && !OWN_CONDITIONS.has(type) && unready.length === 0,
  );
  const check = saidLately(events, [EVENT_REASONS.checkFailed], now);
  return {
    code: unknown ? 'unknown' : 'notReady',
    severity: 'critical',
    reason: unknown
      ? 'The node does not report on this pod: its state is unknown.'
      : unready.length > 0
        ? `Not ready: ${unready.map(checkInWords).join('; ')}.`
        : gate
          ? `Its containers are ready and the pod is not: ${gate.type} does not hold.`
          : 'Its containers are ready and the pod is not: its node may have stopped reporting, or something outside holds it back.',
    evidence:
      (gate ? gate.message || gate.reason : '') ||
      (check && !unknown ? inItsWords(check) : '') ||
      conditionOf(pod.conditions, 'Ready')?.message ||
      pod.phase,
    since,
    nextStep:
      gate && !unknown
        ? 'Look at the program that sets this condition.'
        : unknown || unready.length === 0
          ? 'Look at the node.'
          : 'Try its readiness check by hand and read what the container wrote.',
  };
}
const OWN_CONDITIONS = new Set([
  'Ready',
  'ContainersReady',
  'Initialized',
  'PodScheduled',
  'PodReadyToStartContainers',
]);
