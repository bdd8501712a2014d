import { Worker } from 'node:worker_threads';
import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import type { Rehearsal } from '@zetopsis/answers/rules';
import { AskerLeft } from '../../ground/platform/askerLeft.ts';
import { Question, questionNow } from '../../ground/platform/question.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Turns } from '../../ground/platform/turns.ts';
import { movedWith, type Outcome, type RehearsalWork, type Work, type Worked, workOut } from './evaluation.ts';

/** What one measure may take. */
const LONGEST = 10_000; // ms
/** Who rehearses a rule looks back over much, and waits for it. */
export const LONGEST_REHEARSAL = 30_000; // ms
const MEMORY = 512; // MiB
/** Threads that work out measures at once; one of them for one person, so that nobody's many hold up another's one. */
const TURNS = { perPerson: 1, inAll: 2, waiting: 40 };

/** Works measures out in threads of their own: they hold up nobody, and end with whoever asked. */
@Injectable()
export class Evaluations implements OnApplicationShutdown {
  private readonly turns = new Turns(TURNS);
  /** Threads that wait for work; no more than work at once. */
  private readonly idle: Worker[] = [];
  private ending = false;

  async evaluate(work: Work, longest = LONGEST): Promise<Worked> {
    const outcome = await this.inTurn<Worked>(work, longest);
    if ('wrong' in outcome) throw new Refusal('invalid', outcome.wrong, [{ path: 'text', text: outcome.wrong }]);
    return outcome.done;
  }
  async rehearse(work: RehearsalWork): Promise<Rehearsal> {
    const outcome = await this.inTurn<Rehearsal>(work, LONGEST_REHEARSAL);
    if ('wrong' in outcome) throw new Error(outcome.wrong);
    return outcome.done;
  }
  private async inTurn<Done extends Worked | Rehearsal>(
    work: Work | RehearsalWork,
    longest: number,
  ): Promise<Outcome<Done>> {
    const question = questionNow() ?? new Question('a measure of the server’s own');
    const over = await this.turns.take(question.whose, question);
    try {
      // what comes back is what was asked for
      return (import.meta.url.endsWith('.ts') ? workOut(work) : await this.inThread(work, longest)) as Outcome<Done>;
    } finally {
      over();
    }
  }
  private inThread(work: Work | RehearsalWork, longest: number): Promise<Outcome<Worked | Rehearsal>> {
    const question = questionNow();
    if (question?.left) throw new AskerLeft();
    return new Promise((done, failed) => {
      const worker = this.idle.pop() ?? this.started();
      worker.ref();
      /** A thread that did its work waits for the next one; one that was stopped in it ends. */
      const end = (tell: () => void, again: boolean) => {
        clearTimeout(late);
        forget?.();
        worker.off('message', told).off('error', broke);
        if (again && !this.ending) {
          worker.unref();
          this.idle.push(worker);
        } else void worker.terminate();
        tell();
      };
      const tooMuch = (what: string) =>
        end(
          () =>
            failed(
              new Refusal(
                'tooLarge',
                `This measure takes more than ${what}. Choose a shorter window, fewer series or fewer steps.`,
              ),
            ),
          false,
        );
      const told = (outcome: Outcome<Worked | Rehearsal> | { readonly share: number }) => {
        if ('share' in outcome) question?.goesOn('judging', outcome.share);
        else end(() => done(outcome), true);
      };
      const broke = (error: Error & { code?: string }) =>
        error.code === 'ERR_WORKER_OUT_OF_MEMORY'
          ? tooMuch(`${MEMORY} MiB of memory`)
          : end(() => failed(error), false);
      const late = setTimeout(() => tooMuch(`${longest / 1000} s`), longest);
      const forget = question?.onLeave(() => end(() => failed(new AskerLeft()), false));
      worker.on('message', told).on('error', broke);
      worker.postMessage(work, movedWith(work));
    });
  }
  private started(): Worker {
    const worker = new Worker(new URL('./evaluation.worker.js', import.meta.url), {
      resourceLimits: { maxOldGenerationSizeMb: MEMORY },
    });
    // one that ends by itself while it waits is not given work any more; whoever has given it some hears of it there
    worker.on('error', () => undefined);
    worker.once('exit', () => {
      const place = this.idle.indexOf(worker);
      if (place >= 0) this.idle.splice(place, 1);
    });
    return worker;
  }
  async onApplicationShutdown(): Promise<void> {
    this.ending = true;
    await Promise.all(this.idle.splice(0).map((worker) => worker.terminate()));
  }
}
