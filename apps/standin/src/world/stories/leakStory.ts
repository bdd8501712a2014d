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
    this.world.store.put({
      kind: 'pods',
      object: {
        ...structuredClone(pod),
        status: podStatus({
          plan,
          image: plan.image,
          name: pod.metadata.name,
          createdAt: created,
          start: { is: 'running', since: started },
          restarts: 3 + round,
          lastState: last,
        }),
      },
      at: now,
    });
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
    this.world.store.put({ kind: 'pods', object: changed, at: now });
    this.world.store.put({
      kind: 'events',
      object: eventShape({
        about: { kind: 'Pod', object: changed },
        reason: 'OutOfMemory',
        message: `Container ${LEAKING.name} used more than its memory limit and was ended`,
        type: 'Warning',
        firstAt: now,
        lastAt: now,
        count: 1,
      }),
      at: now,
    });
    this.world.count(LEAKING.namespace, LEAKING.name, now);
    this.world.after(this.rounds.rest, () => this.follow(Date.now()));
  }
}
