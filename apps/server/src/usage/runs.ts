import type { SheetAnswer } from '@zetopsis/contract';
import type { AnyWorkload, CronJobObject, PodObject } from '@zetopsis/core/inventory';
import { Cron } from 'croner';
import type { ClusterView } from './clusterView.ts';
import { runsOf } from './jobRuns.ts';

const MOST_RUNS = 60;

/** Runs of a job or cron job that were there in the window, newest first; null of anything else. */
export function runLines(view: ClusterView, workload: AnyWorkload | null): SheetAnswer['runs'] {
  if (workload === null || (workload.kind !== 'job' && workload.kind !== 'cron job')) return null;
  const pods = view.pods.map(({ pod }) => pod);
  return runsOf(view.jobs, pods, workload)
    .slice(0, MOST_RUNS)
    .map(({ job, pods: own }) => ({
      name: job.name,
      outcome: job.outcome,
      startedAt: job.startedAt,
      endedAt: job.endedAt,
      end: endOf(own),
      retries: Math.max(0, job.outcome === 'failed' ? job.failed - 1 : job.failed),
    }));
}

function endOf(pods: readonly PodObject[]): string | null {
  const newest = [...pods].sort((a, b) => b.createdAt - a.createdAt)[0];
  for (const { role, name, state } of newest?.containers ?? [])
    if (role !== 'start-up' && state.is === 'ended') return `${name} ended with code ${state.exitCode ?? 'unknown'}`;
  return null;
}

/** When the next run is due after a moment; null when none is, or the schedule cannot be read. */
export function nextDue(workload: AnyWorkload | null, after: number): number | null {
  if (workload?.kind !== 'cron job' || workload.suspended) return null;
  try {
    return cronOf(workload).nextRun(new Date(after))?.getTime() ?? null;
  } catch {
    return null; // the cluster's own controller does not understand it either, and says so in its events
  }
}
/** Without a zone the cluster's controller counts in UTC, as its containers do. */
const cronOf = ({ schedule, zone }: CronJobObject) => new Cron(schedule, { timezone: zone ?? 'UTC', paused: true });
