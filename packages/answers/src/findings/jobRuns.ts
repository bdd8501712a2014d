import type { AnyWorkload, JobObject, PodObject } from '@zetopsis/core/inventory';

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
