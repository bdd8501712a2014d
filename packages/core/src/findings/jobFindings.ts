import { formatCount } from '../format/index.ts';
import type { CronJobObject, JobObject, PodObject } from '../inventory/index.ts';
import { type EpochMs, MINUTE } from '../units/index.ts';
import { deletionFindings } from './deletion.ts';
import { calledOf, endInWords } from './ends.ts';
import { byWeight, type Finding } from './finding.ts';
import { type Around, podFindings } from './podFindings.ts';

/** How the pods of a job ended, as far as they are still there: "container `replan` ended with code 3". */
function endOf(pods: readonly PodObject[]): string | null {
  for (const pod of [...pods].sort((a, b) => b.createdAt - a.createdAt)) {
    for (const container of pod.containers) {
      const end = container.state.is === 'ended' ? container.state : container.lastEnd;
      if (end && end.exitCode !== 0)
        return `${calledOf(container)} ended with ${endInWords(end)}${end.message === '' ? '' : `: ${end.message}`}`;
    }
  }
  return null;
}

/** One run. `pods` are its own. */
export interface Run {
  readonly job: JobObject;
  readonly pods: readonly PodObject[];
}
/** Why a run does not do what was asked of it. */
export function jobFindings({ job, pods }: Run, now: EpochMs, around: Around = {}): Finding[] {
  if (job.outcome !== 'failed') {
    const waiting = pods.filter(({ phase }) => phase === 'pending' || phase === 'running');
    return [...waiting.flatMap((pod) => podFindings(pod, now, around)), ...deletionFindings(job, now)].sort(byWeight);
  }
  const tries = job.failed > 1 ? ` after ${formatCount(job.failed, 'try', 'tries')}` : '';
  const end = endOf(pods);
  return [
    {
      code: 'jobFailed',
      severity: 'critical',
      reason: `The job failed${tries}${end === null ? '' : `: ${end}`}.`,
      evidence: job.message || job.reason || 'the cluster says no more',
      since: job.endedAt,
      nextStep: 'Look at the log of its last pod. A job that failed does not begin again by itself.',
    },
  ];
}

/** A run may begin so long after it was due. */
const BEGINS_WITHIN = 5 * MINUTE;

/**
 * A schedule is judged by its newest runs: what failed after the last success, what did not begin, what runs beside
 * another. `runs` are its jobs, in any order; `due` is when its newest run should have begun, null when that is not known.
 */
export function cronJobFindings(
  runs: readonly Run[],
  now: EpochMs,
  schedule?: { readonly cron: CronJobObject; readonly due: EpochMs | null; readonly around?: Around },
): Finding[] {
  const newestFirst = [...runs].sort((a, b) => b.job.createdAt - a.job.createdAt);
  const lastSuccess = newestFirst.find(({ job }) => job.outcome === 'succeeded')?.job.createdAt ?? 0;
  const failed = newestFirst.filter(({ job }) => job.outcome === 'failed' && job.createdAt > lastSuccess);
  const found: Finding[] = [];
  const [newest] = failed;
  if (newest) {
    const [one] = jobFindings(newest, now);
    const first = failed.at(-1)!; // not empty here
    found.push({
      code: 'runsFail',
      // the next run may bring what one did not; what fails again and again is brought by none
      severity: failed.length > 1 ? 'critical' : 'warning',
      reason:
        failed.length === 1
          ? `Its last run failed${one ? `: ${lowerFirst(one.reason)}` : '.'}`
          : `Its last ${failed.length} runs failed${one ? `; of the newest: ${lowerFirst(one.reason)}` : '.'}`,
      evidence: one?.evidence ?? '',
      since: first.job.endedAt ?? first.job.createdAt,
      nextStep: 'Look at the log of the last run’s pod, and at what changed before the first run that failed.',
    });
  }
  const running = newestFirst.filter(({ job }) => job.outcome === 'running' || job.outcome === 'waiting');
  for (const run of running) found.push(...jobFindings(run, now, schedule?.around));
  if (running.length > 1)
    found.push({
      code: 'runsOverlap',
      severity: 'warning',
      reason: `${running.length} of its runs go on at once: the one before does not end before the next is due.`,
      evidence: running.map(({ job }) => job.name).join(', '),
      since: running[0]!.job.createdAt,
      nextStep: 'See what makes a run take longer than the time between two, or let the next one wait.',
    });
  if (schedule) found.push(...missed(schedule, running.length > 0, now));
  return found.sort(byWeight);
}

function missed(
  { cron, due }: { readonly cron: CronJobObject; readonly due: EpochMs | null },
  runs: boolean,
  now: EpochMs,
): Finding[] {
  if (cron.suspended || due === null || now - due < BEGINS_WITHIN || cron.createdAt > due) return [];
  if (cron.lastDueAt !== null && cron.lastDueAt >= due) return [];
  return [
    {
      code: 'runsMissed',
      severity: 'warning',
      reason: runs
        ? 'The run that was due has not begun: the one before still goes on.'
        : 'The run that was due has not begun.',
      evidence: `schedule ${cron.schedule}; last begun ${cron.lastDueAt === null ? 'never' : new Date(cron.lastDueAt).toISOString()}`,
      since: due,
      nextStep: runs
        ? 'Look at the run that does not end.'
        : 'Look at its events: too many missed starts, or a deadline that is too short, stop a schedule.',
    },
  ];
}

const lowerFirst = (text: string): string => text.charAt(0).toLowerCase() + text.slice(1);
