import { Worker } from 'node:worker_threads';
import { Injectable } from '@nestjs/common';
import { AskerLeft } from '../../ground/platform/askerLeft.ts';
import { Question, questionNow } from '../../ground/platform/question.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Turns } from '../../ground/platform/turns.ts';
import { evaluate, movedWith, type Outcome, type Work, type Worked } from './evaluation.ts';

/** What one measure may take. */
const LONGEST = 10_000; // ms
const MEMORY = 512; // MiB
/** Threads that work out measures at once; one of them for one person, so that nobody's many hold up another's one. */
const TURNS = { perPerson: 1, inAll: 2, waiting: 40 };

/** Works measures out in threads of their own: they hold up nobody, and end with whoever asked. */
@Injectable()
export class Evaluations {
  private readonly turns = new Turns(TURNS);

  async evaluate(work: Work): Promise<Worked> {
    const question = questionNow() ?? new Question('a measure of the server’s own');
    const over = await this.turns.take(question.whose, question);
    let outcome: Outcome;
    try {
      outcome = import.meta.url.endsWith('.ts') ? evaluate(work) : await this.inThread(work);
    } finally {
      over();
    }
    if ('wrong' in outcome) throw new Refusal('invalid', outcome.wrong, [{ path: 'text', text: outcome.wrong }]);
    return outcome.done;
  }
  private inThread(work: Work): Promise<Outcome> {
    const question = questionNow();
    if (question?.left) throw new AskerLeft();
    return new Promise((done, failed) => {
      const worker = new Worker(new URL('./evaluation.worker.js', import.meta.url), {
        workerData: work,
        transferList: movedWith(work),
        resourceLimits: { maxOldGenerationSizeMb: MEMORY },
      });
      const end = (tell: () => void) => {
        clearTimeout(late);
        forget?.();
        void worker.terminate();
        tell();
      };
      const tooMuch = (what: string) =>
        end(() =>
          failed(
            new Refusal(
              'tooLarge',
              `This measure takes more than ${what}. Choose a shorter window, fewer series or fewer steps.`,
            ),
          ),
        );
      const late = setTimeout(() => tooMuch(`${LONGEST / 1000} s`), LONGEST);
      const forget = question?.onLeave(() => end(() => failed(new AskerLeft())));
      worker.once('message', (outcome: Outcome) => end(() => done(outcome)));
      worker.once('error', (error: Error & { code?: string }) =>
        error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? tooMuch(`${MEMORY} MiB of memory`) : end(() => failed(error)),
      );
    });
  }
}
