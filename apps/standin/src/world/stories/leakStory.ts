import type { Inhabited } from '../inhabited.ts';
import { iso } from '../objects.ts';
import { LEAKING } from '../scenario/index.ts';
import { eventShape } from '../shapes/events.ts';
import { podStatus } from '../shapes/pods.ts';
import type { LeakRounds } from './leakRounds.ts';

/** Story 1: the tide model climbs to its limit, is ended, waits, and begins again. */
export class LeakStory {
  private readonly world: Inhabited;
  private readonly rounds: LeakRounds;
  constructor(world: Inhabited, rounds: LeakRounds) {
    this.world = world;
    this.rounds = rounds;
  }

  follow(now: number): void {
    const { length, rest } = this.rounds;
    const { started, round } = this.rounds.at(now);
    this.run(now, started, round);
    const ends = started + length;
    if (now < ends) this.world.after(ends - now, () => this.end());
    else this.world.after(ends + rest - now, () => this.follow(Date.now()));
  }

  /** The restart count holds what happened before the stories, too. */
  private run(now: number, started: number, round: number): void {
    const [pod] = this.world.podsOf(LEAKING.namespace, LEAKING.name);
    if (!pod) return;
    const plan = this.world.planOf(pod)!;
    const { length, rest } = this.rounds;
    const lastStart = started - length - rest;
    const last = {
      terminated: { exitCode: 137, reason: 'OOMKilled', startedAt: iso(lastStart), finishedAt: iso(started - rest) },
    };
    const created = Date.parse(pod.metadata.creationTimestamp);
    this.world.store.put(
      'pods',
      {
        ...structuredClone(pod),
        status: podStatus(
          plan,
          plan.image,
          pod.metadata.name,
          created,
          { is: 'running', since: started },
          3 + round,
          last,
        ),
      },
      now,
    );
    this.world.count(LEAKING.namespace, LEAKING.name, now);
  }

  private end(): void {
    const now = Date.now();
    const [pod] = this.world.podsOf(LEAKING.namespace, LEAKING.name);
    if (!pod) return;
    const { started, round } = this.rounds.at(now - 1);
    const changed = structuredClone(pod);
    const [status] = changed['status'].containerStatuses;
    const ended = { exitCode: 137, reason: 'OOMKilled', startedAt: iso(started), finishedAt: iso(now) };
    Object.assign(status, { state: { terminated: ended }, ready: false, started: false, restartCount: 3 + round });
    for (const condition of changed['status'].conditions) {
      if (condition.type === 'Ready' || condition.type === 'ContainersReady')
        Object.assign(condition, {
          status: 'False',
          reason: 'ContainersNotReady',
          message: `containers with unready status: [${LEAKING.name}]`,
          lastTransitionTime: iso(now),
        });
    }
    this.world.store.put('pods', changed, now);
    this.world.store.put(
      'events',
      eventShape(
        { kind: 'Pod', object: changed },
        'OutOfMemory',
        `Container ${LEAKING.name} used more than its memory limit and was ended`,
        'Warning',
        now,
        now,
        1,
      ),
      now,
    );
    this.world.count(LEAKING.namespace, LEAKING.name, now);
    this.world.after(this.rounds.rest, () => this.follow(Date.now()));
  }
}
