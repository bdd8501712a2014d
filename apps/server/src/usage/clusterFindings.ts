import {
  autoscalerFindings,
  byWeight,
  claimFindings,
  cronJobFindings,
  type Finding,
  jobFindings,
  nodeFindings,
  podFindings,
  quotaFindings,
  volumeFindings,
  workloadFindings,
} from '@zetopsis/core/findings';
import {
  type AnyWorkload,
  isKeeper,
  isWorkload,
  type JobObject,
  type PodObject,
  workloadKey,
} from '@zetopsis/core/inventory';
import type { EpochMs } from '@zetopsis/core/units';
import type { ClusterInventory } from '../inventory/clusterInventory.ts';
import { objectKey } from './objectPaths.ts';
import { claimKey, type VolumesRead } from './volumesRead.ts';

export interface WorkloadState {
  readonly workload: AnyWorkload;
  readonly key: string;
  readonly findings: readonly Finding[];
  /** Null of what runs to an end. */
  readonly ready: number | null;
  readonly desired: number | null;
}
/** A quota, claim or autoscaler and what is wrong with it. */
export interface BoundState {
  readonly namespace: string;
  readonly name: string;
  readonly key: string;
  readonly findings: readonly Finding[];
}

/** One run of a job or cron job with its pods, as far as they are still there. */
export interface Run {
  readonly job: JobObject;
  readonly pods: readonly PodObject[];
}

export const runsOf = (jobs: readonly JobObject[], pods: readonly PodObject[], owner: AnyWorkload): Run[] =>
  jobs
    .filter((job) => job.uid === owner.uid || job.owner?.uid === owner.uid)
    .map((job) => ({ job, pods: pods.filter((pod) => pod.owner?.uid === job.uid) }))
    .sort((a, b) => b.job.createdAt - a.job.createdAt);

function stateOf(inventory: ClusterInventory, jobs: readonly JobObject[], workload: AnyWorkload, at: EpochMs) {
  const key = workloadKey(workload);
  const pods = inventory.podsOf(workload.namespace ?? '', key);
  if (isKeeper(workload))
    return {
      workload,
      key,
      findings: workloadFindings(workload, pods, at),
      ready: workload.ready,
      desired: workload.desired,
    };
  const findings =
    workload.kind === 'cron job'
      ? cronJobFindings(runsOf(jobs, pods, workload), at)
      : workload.kind === 'job'
        ? jobFindings(workload, pods, at)
        : [];
  return { workload, key, findings, ready: null, desired: null };
}

/** Findings of every workload, node and bound at the window's end. */
export function clusterFindings(inventory: ClusterInventory, volumes: VolumesRead, at: EpochMs) {
  const jobs = inventory.list('job');
  const workloads = [
    ...inventory.list('deployment'),
    ...inventory.list('stateful set'),
    ...inventory.list('daemon set'),
    ...inventory.list('replica set'),
    ...inventory.list('cron job'),
    ...jobs,
  ]
    .filter(isWorkload)
    .map((workload): WorkloadState => stateOf(inventory, jobs, workload, at));
  const nodes = inventory.list('node').map((node) => ({ node, findings: nodeFindings(node) }));
  const bounds = [
    ...inventory.list('quota').map((quota) => boundOf(quota, quotaFindings(quota))),
    ...inventory.list('autoscaler').map((scaler) => boundOf(scaler, autoscalerFindings(scaler))),
    ...inventory.list('volume claim').map((claim) => {
      const read = volumes.get(claimKey(claim.namespace ?? '', claim.name));
      const filling = read
        ? volumeFindings(claim.name, {
            use: read.volume.usage.use,
            size: read.volume.usage.limit,
            fullIn: read.fullIn,
          })
        : [];
      return boundOf(claim, [...claimFindings(claim, at), ...filling]);
    }),
  ].filter(({ findings }) => findings.length > 0);
  return { workloads, nodes, bounds };
}

const boundOf = (
  object: Parameters<typeof objectKey>[0] & { namespace: string | null },
  findings: readonly Finding[],
): BoundState => ({ namespace: object.namespace ?? '', name: object.name, key: objectKey(object), findings });

/** Findings of pods whose workload is no object of ours: their pods speak for them. */
export function findingsOfPods(pods: readonly PodObject[], at: EpochMs): Finding[] {
  return pods.flatMap((pod) => podFindings(pod, at)).sort(byWeight);
}
