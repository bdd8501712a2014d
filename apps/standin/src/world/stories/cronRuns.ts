import { nameSuffix } from '../chance.ts';
import type { Inhabited } from '../inhabited.ts';
import { type ApiObject, iso } from '../objects.ts';
import { DAY, type WorkloadPlan } from '../scenario/index.ts';
import { eventShape } from '../shapes/events.ts';
import { endedPod } from '../shapes/pods.ts';
import { cronJobShape, jobShape } from '../shapes/workloads.ts';

const KEPT = 4;

/** Cron jobs with the runs that are kept of them, and their next ones. Story 6 is a run of the night before that failed. */
export class CronRuns {
  private readonly world: Inhabited;
  constructor(world: Inhabited) {
    this.world = world;
  }

  lay(plan: WorkloadPlan, now: number): void {
    const runs = plan.runs!; // a cron job's plan has them
    const { start } = this.world.options;
    const cron = cronJobShape(plan, this.world.seed, start - 30 * DAY);
    this.world.store.put({ kind: 'cronjobs', object: cron, at: now });
    // nightly ones at their hour of the days before, the others backwards from the start
    const last = this.lastDue(plan, start);
    runs.ends.forEach((end, i) => {
      const created = last - (runs.ends.length - 1 - i) * runs.every;
      this.finished({ plan, cron, created, end, now });
    });
    const period = this.world.paced(runs.every);
    this.world.after(Math.max(500, period - (now - start)), () => {
      this.run(plan, cron);
      this.world.every(period, () => this.run(plan, cron));
    });
  }

  private lastDue({ schedule = '', runs }: WorkloadPlan, start: number): number {
    const [minute = '0', hour = '*'] = schedule.split(' ');
    const { every } = runs!; // a cron job's plan has them
    const offset = Number(minute) * 60_000 + (hour === '*' ? 0 : Number(hour) * 3_600_000);
    return Math.floor((start - offset) / every) * every + offset;
  }

  private finished({
    plan,
    cron,
    created,
    end,
    now,
  }: {
    readonly plan: WorkloadPlan;
    readonly cron: ApiObject;
    readonly created: number;
    readonly end: 'succeeded' | 'failed';
    readonly now: number;
  }): void {
    const job = jobShape(plan, cron, created);
    const took = plan.runs!.takes;
    const failed = end === 'failed';
    const tries = failed ? [created, created + took] : [created];
    for (const at of tries)
      this.pod({ plan, job, createdAt: at, end: { failed, at: at + took, from: at + 4000 }, now });
    this.end({ plan, job, end, at: created + took * tries.length, now });
  }

  private pod({
    plan,
    job,
    createdAt,
    end,
    now,
  }: {
    readonly plan: WorkloadPlan;
    readonly job: ApiObject;
    readonly createdAt: number;
    readonly end: { failed: boolean; at: number; from: number } | null;
    readonly now: number;
  }): ApiObject {
    const pod = this.world.addPod(
      {
        plan,
        owner: { kind: 'Job', name: job.metadata.name, uid: job.metadata.uid },
        name: `${job.metadata.name}-${nameSuffix(`${job.metadata.uid} ${createdAt}`, 5)}`,
        labels: { app: plan.name, 'job-name': job.metadata.name },
        image: plan.image,
        createdAt,
        start: { is: 'running', since: createdAt + 4000 },
      },
      now,
    );
    if (!end) return pod;
    const message = 'no berth plan for the night: the tide table is empty';
    const ended = endedPod(pod, { ...end, ...(end.failed ? { code: 3, message } : {}) });
    delete ended['status'].reason;
    this.world.store.put({ kind: 'pods', object: ended, at: now });
    return ended;
  }

  private end({
    plan,
    job,
    end,
    at,
    now,
  }: {
    readonly plan: WorkloadPlan;
    readonly job: ApiObject;
    readonly end: 'succeeded' | 'failed';
    readonly at: number;
    readonly now: number;
  }): void {
    const failed = end === 'failed';
    const ended = structuredClone(job);
    ended['status'] = {
      startTime: job.metadata.creationTimestamp,
      ...(failed ? { failed: 2 } : { succeeded: 1, completionTime: iso(at) }),
      conditions: [
        {
          type: failed ? 'Failed' : 'Complete',
          status: 'True',
          reason: failed ? 'BackoffLimitExceeded' : '',
          message: failed ? 'Job has reached the specified backoff limit' : '',
          lastTransitionTime: iso(at),
        },
      ],
    };
    this.world.store.put({ kind: 'jobs', object: ended, at: now });
    if (failed)
      this.world.store.put({
        kind: 'events',
        object: eventShape({
          about: { kind: 'Job', object: ended },
          reason: 'BackoffLimitExceeded',
          message: 'Job has reached the specified backoff limit',
          type: 'Warning',
          firstAt: at,
          lastAt: at,
          count: 1,
        }),
        at: now,
      });
    this.world.change('cronjobs', plan.namespace, plan.name, now, (cron) => {
      cron['status'] = {
        ...cron['status'],
        active: [],
        lastScheduleTime: job.metadata.creationTimestamp,
        ...(failed ? {} : { lastSuccessfulTime: iso(at) }),
      };
    });
  }

  /** One more run; it ends as it should. Old runs go with their pods. */
  private run(plan: WorkloadPlan, cron: ApiObject): void {
    const now = Date.now();
    const job = jobShape(plan, cron, now);
    job.metadata.name = `${plan.name}-${Math.floor(now / 1000)}`;
    this.world.store.put({ kind: 'jobs', object: job, at: now });
    const pod = this.pod({ plan, job, createdAt: now, end: null, now });
    this.world.change('cronjobs', plan.namespace, plan.name, now, (changed) => {
      changed['status'] = { ...changed['status'], active: [{ name: job.metadata.name }], lastScheduleTime: iso(now) };
    });
    this.world.after(Math.max(1000, this.world.paced(plan.runs!.takes)), () => {
      const at = Date.now();
      const current = this.world.store.get('pods', plan.namespace, pod.metadata.name);
      if (current) {
        this.world.retire(current, at);
        this.world.store.put({ kind: 'pods', object: endedPod(current, { failed: false, at, from: now }), at });
      }
      this.end({ plan, job, end: 'succeeded', at, now: at });
      this.forget(plan, cron, at);
      this.world.count(plan.namespace, plan.name, at);
    });
    this.world.count(plan.namespace, plan.name, now);
  }
  private forget(plan: WorkloadPlan, cron: ApiObject, at: number): void {
    const own = this.world.store
      .list('jobs')
      .filter((job) => job.metadata.ownerReferences?.[0]?.uid === cron.metadata.uid)
      .sort((a, b) => Date.parse(b.metadata.creationTimestamp) - Date.parse(a.metadata.creationTimestamp));
    for (const job of own.slice(KEPT)) {
      for (const pod of this.world.podsOf(plan.namespace, plan.name))
        if (pod.metadata.ownerReferences?.[0]?.uid === job.metadata.uid) this.world.removePod(pod, at);
      this.world.store.remove('jobs', job, at);
    }
  }
}
