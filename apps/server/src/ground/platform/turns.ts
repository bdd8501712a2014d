import { AskerLeft } from './askerLeft.ts';
import type { Question } from './question.ts';
import { Refusal } from './refusals.ts';

export interface TurnLimits {
  /** Questions of one person that are worked on at once. */
  readonly perPerson: number;
  readonly inAll: number;
  /** Of one person, that wait for their turn. */
  readonly waiting: number;
}
const TURNS: TurnLimits = { perPerson: 6, inAll: 16, waiting: 60 };

interface Waiting {
  readonly begin: () => void;
}

/** Questions take turns, person by person, so that nobody's many questions make another's one wait. */
export class Turns {
  private readonly running = new Map<string, number>();
  /** In the order in which their persons are next. */
  private readonly queues = new Map<string, Waiting[]>();
  private count = 0;
  constructor(private readonly limits: TurnLimits = TURNS) {}

  /** Questions that are worked on now. */
  get busy(): number {
    return this.count;
  }
  /** Questions that wait for their turn. */
  get waiting(): number {
    return [...this.queues.values()].reduce((sum, queue) => sum + queue.length, 0);
  }
  /** Resolves when it may begin; answers what is to be called when it is done. Who left while waiting has none. */
  async take(person: string, question: Question): Promise<() => void> {
    const queue = this.queues.get(person) ?? [];
    if (queue.length >= this.limits.waiting)
      throw new Refusal(
        'tooMany',
        `${this.limits.waiting} questions of yours wait for an answer already. Wait for some of them, then ask again.`,
      );
    await new Promise<void>((begin, failed) => {
      const own = { begin };
      queue.push(own);
      this.queues.set(person, queue);
      question.onLeave(() => {
        const place = queue.indexOf(own);
        // it has begun: the queue of its person may be another one by now
        if (place < 0) return;
        queue.splice(place, 1);
        if (queue.length === 0) this.queues.delete(person);
        failed(new AskerLeft());
      });
      this.next();
    });
    let done = false;
    return () => {
      if (done) return;
      done = true;
      this.count--;
      const left = this.running.get(person)! - 1; // it was counted when it began
      if (left > 0) this.running.set(person, left);
      else this.running.delete(person);
      this.next();
    };
  }

  private next(): void {
    for (const [person, queue] of [...this.queues]) {
      if (this.count >= this.limits.inAll) return;
      const running = this.running.get(person) ?? 0;
      if (running >= this.limits.perPerson) continue;
      const first = queue.shift();
      this.queues.delete(person);
      // behind the others
      if (queue.length > 0) this.queues.set(person, queue);
      if (!first) continue;
      this.running.set(person, running + 1);
      this.count++;
      first.begin();
      this.next();
      return;
    }
  }
}
