import type { SheetAnswer } from '@zetopsis/contract';
import type { AnyWorkload, CronJobObject, PodObject } from '@zetopsis/core/inventory';
import { DAY } from '@zetopsis/core/units';
import { Cron } from 'croner';
import type { ClusterView } from '../cluster/index.ts';
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

/** No schedule that ever comes waits longer: a 29th of February does eight years, over a century's end. */
const WITHIN = 9 * 366 * DAY;
/** Asked again and again of objects that never change: a schedule that never comes takes milliseconds to be known as such. */
const known = new WeakMap<CronJobObject, { readonly after: number; readonly due: number | null }>();

/** When the next run is due after a moment; null when none is, or the schedule cannot be read. */
export function nextDue(workload: AnyWorkload | null, after: number): number | null {
  if (workload?.kind !== 'cron job' || workload.suspended) return null;
  const before = known.get(workload);
  if (before?.after === after) return before.due;
  const due = nextOf(workload, after);
  known.set(workload, { after, due });
  return due;
}
/** Without a zone the cluster's controller counts in UTC, as its containers do. */
function nextOf({ schedule, zone }: CronJobObject, after: number): number | null {
  try {
    const cron = new Cron(schedule, { timezone: zone ?? 'UTC', paused: true, stopAt: new Date(after + WITHIN) });
    return cron.nextRun(new Date(after))?.getTime() ?? null;
  } catch {
    return null; // the cluster's own controller does not understand it either, and says so in its events
  }
}
