import type { CronJobObject, JobObject, WorkloadObject } from './objects.ts';
import { common, conditions, images, uses } from './readCommon.ts';
import { REVISION_ANNOTATION } from './wire-names.ts';
import * as wire from './wireReader.ts';

type Wire = wire.Wire;

const observed = (object: Wire) =>
  wire.count(wire.child(object, 'status'), 'observedGeneration') >=
  wire.count(wire.child(object, 'metadata'), 'generation');

/** Numbers and shares as they stand: 1, "25%". */
function strategyOf(spec: Wire): NonNullable<WorkloadObject['strategy']> {
  const rolling = wire.child(wire.child(spec, 'strategy'), 'rollingUpdate');
  const own = (field: string) => {
    const value = rolling[field];
    return typeof value === 'number' || typeof value === 'string' ? String(value).slice(0, 20) : null;
  };
  return { away: own('maxUnavailable'), more: own('maxSurge') };
}

export function readReplicated(object: Wire, kind: 'deployment' | 'replica set'): WorkloadObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  const template = wire.child(spec, 'template');
  const present = wire.count(status, 'replicas');
  return {
    kind,
    ...common(object),
    desired: wire.count(spec, 'replicas', 1),
    present,
    ready: wire.count(status, 'readyReplicas'),
    updated: kind === 'deployment' ? wire.count(status, 'updatedReplicas') : present,
    available: wire.count(status, 'availableReplicas'),
    paused: wire.flag(spec, 'paused'),
    observed: observed(object),
    images: images(template),
    uses: uses(template),
    ...(kind === 'deployment' ? { strategy: strategyOf(spec) } : {}),
    revision: wire.texts(wire.child(object, 'metadata'), 'annotations')[REVISION_ANNOTATION] ?? null,
    conditions: conditions(status),
  };
}

export function readDaemonSet(object: Wire): WorkloadObject {
  const status = wire.child(object, 'status');
  const template = wire.child(wire.child(object, 'spec'), 'template');
  return {
    kind: 'daemon set',
    ...common(object),
    desired: wire.count(status, 'desiredNumberScheduled'),
    present: wire.count(status, 'currentNumberScheduled'),
    ready: wire.count(status, 'numberReady'),
    updated: wire.count(status, 'updatedNumberScheduled'),
    available: wire.count(status, 'numberAvailable'),
    paused: false,
    observed: observed(object),
    images: images(template),
    uses: uses(template),
    revision: null,
    conditions: conditions(status),
  };
}

export function readStatefulSet(object: Wire): WorkloadObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  const template = wire.child(spec, 'template');
  const own = uses(template);
  return {
    kind: 'stateful set',
    ...common(object),
    desired: wire.count(spec, 'replicas', 1),
    present: wire.count(status, 'replicas'),
    ready: wire.count(status, 'readyReplicas'),
    updated: wire.count(status, 'updatedReplicas', wire.count(status, 'currentReplicas')),
    available: wire.count(status, 'availableReplicas', wire.count(status, 'readyReplicas')),
    paused: false,
    observed: observed(object),
    images: images(template),
    uses: own,
    revision: wire.optionalText(status, 'updateRevision'),
    conditions: conditions(status),
  };
}

function outcomeOf(
  spec: Wire,
  status: Wire,
  startedAt: number | null,
): Pick<JobObject, 'outcome' | 'reason' | 'message'> {
  const found = conditions(status).filter((condition) => condition.status === 'true');
  const failed = found.find(({ type }) => type === 'Failed');
  if (failed) return { outcome: 'failed', reason: failed.reason, message: failed.message };
  if (found.some(({ type }) => type === 'Complete')) return { outcome: 'succeeded', reason: '', message: '' };
  if (wire.flag(spec, 'suspend')) return { outcome: 'suspended', reason: '', message: '' };
  return { outcome: startedAt === null ? 'waiting' : 'running', reason: '', message: '' };
}

export function readJob(object: Wire): JobObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  const template = wire.child(spec, 'template');
  const startedAt = wire.time(status, 'startTime');
  const outcome = outcomeOf(spec, status, startedAt);
  const end = conditions(status).find(
    ({ type, status: holds }) => holds === 'true' && (type === 'Failed' || type === 'Complete'),
  );
  return {
    kind: 'job',
    ...common(object),
    ...outcome,
    startedAt,
    endedAt: wire.time(status, 'completionTime') ?? end?.since ?? null,
    completions: wire.count(spec, 'completions', 1),
    active: wire.count(status, 'active'),
    succeeded: wire.count(status, 'succeeded'),
    failed: wire.count(status, 'failed'),
    retriesAllowed: wire.count(spec, 'backoffLimit', 6),
    images: images(template),
    uses: uses(template),
  };
}

export function readCronJob(object: Wire): CronJobObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  const template = wire.child(wire.child(wire.child(spec, 'jobTemplate'), 'spec'), 'template');
  return {
    kind: 'cron job',
    ...common(object),
    schedule: wire.text(spec, 'schedule'),
    zone: wire.optionalText(spec, 'timeZone'),
    suspended: wire.flag(spec, 'suspend'),
    running: wire.list(status, 'active').length,
    lastDueAt: wire.time(status, 'lastScheduleTime'),
    lastSucceededAt: wire.time(status, 'lastSuccessfulTime'),
    images: images(template),
    uses: uses(template),
  };
}
