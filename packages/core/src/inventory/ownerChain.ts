import type { CronJobObject, InventoryObject, JobObject, PodObject, WorkloadKind, WorkloadObject } from './objects.ts';

/** What a pod belongs to in the end: the deployment behind its replica set, the cron job behind its job, or itself when it stands alone. */
export interface WorkloadRef {
  readonly kind: WorkloadKind;
  readonly namespace: string;
  readonly name: string;
  readonly uid: string;
}

export type WorkloadName = Pick<WorkloadRef, 'kind' | 'name'>;

/** A map: the kind is a tenant's word, and may be one that every object of the language has, such as “constructor”. */
const KINDS: ReadonlyMap<string, WorkloadKind> = new Map([
  ['Deployment', 'deployment'],
  ['StatefulSet', 'stateful set'],
  ['DaemonSet', 'daemon set'],
  ['Job', 'job'],
  ['CronJob', 'cron job'],
  ['ReplicaSet', 'replica set'],
]);

/** One text for kind and name, since two kinds may share a name: "daemon-set:node-collector". */
export const workloadKey = (workload: WorkloadName): string => `${workload.kind.replace(' ', '-')}:${workload.name}`;

/** `byUid` knows replica sets and jobs by their uid; an unknown one stands for itself. */
export function workloadOf(pod: PodObject, byUid: (uid: string) => InventoryObject | undefined): WorkloadRef {
  const namespace = pod.namespace ?? '';
  const { owner } = pod;
  if (!owner) return { kind: 'lone pod', namespace, name: pod.name, uid: pod.uid };
  const kind = KINDS.get(owner.kind) ?? 'other';
  if (kind === 'replica set' || kind === 'job') {
    const above = byUid(owner.uid)?.owner;
    if (above) return { kind: KINDS.get(above.kind) ?? 'other', namespace, name: above.name, uid: above.uid };
  }
  return { kind, namespace, name: owner.name, uid: owner.uid };
}

export type AnyWorkload = WorkloadObject | JobObject | CronJobObject;

/** What keeps a number of pods running, and is nobody's part. */
export const isKeeper = (object: InventoryObject): object is WorkloadObject =>
  object.kind === 'deployment' ||
  object.kind === 'stateful set' ||
  object.kind === 'daemon set' ||
  (object.kind === 'replica set' && !object.owner);

/** A replica set under a deployment, or a job under a cron job, is part of it, not a workload of its own. */
export const isWorkload = (object: InventoryObject): object is AnyWorkload =>
  isKeeper(object) || object.kind === 'cron job' || (object.kind === 'job' && !object.owner);
