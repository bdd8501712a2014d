import { AsyncLocalStorage } from 'node:async_hooks';
import { AskerLeft } from './askerLeft.ts';
import { Refusal } from './refusals.ts';

/** What one answer may take of the time that all share; while others are served between its pieces nothing is counted. */
export const LONGEST_WORK = 30_000; // ms
/** Nobody waits longer than this for one answer, whatever holds it up. */
const LONGEST_WAIT = 5 * 60_000; // ms

export interface Progress {
  readonly doing: 'reading' | 'judging';
  /** Of that, 0 to 1; null where nobody knows how much it will be. */
  readonly share: number | null;
}

/**
 * Something that is worked out for somebody who waits for it. Work in pieces looks at it between the pieces: it ends when
 * whoever asked has left, or when it took too long.
 */
export class Question {
  private readonly leaving = new Set<() => void>();
  private gone = false;
  private worked = 0;
  /** Who asks, as turns are taken by; empty: the server itself. */
  whose = '';
  private readonly until = performance.now() + LONGEST_WAIT;
  private reached: Progress | null = null;
  constructor(readonly what: string) {}

  /** How far it is, where that is told. */
  get progress(): Progress | null {
    return this.reached;
  }
  goesOn(doing: Progress['doing'], share: number | null): void {
    this.reached = { doing, share };
  }
  get left(): boolean {
    return this.gone;
  }
  leave(): void {
    if (this.gone) return;
    this.gone = true;
    for (const told of this.leaving) told();
    this.leaving.clear();
  }
  /** Told once when whoever asked leaves; answers how to be told no more. */
  onLeave(told: () => void): () => void {
    if (this.gone) told();
    else this.leaving.add(told);
    return () => this.leaving.delete(told);
  }
  /** After each piece of so many ms of work. */
  check(worked = 0): void {
    this.worked += worked;
    if (this.gone) throw new AskerLeft();
    if (this.worked > LONGEST_WORK || performance.now() > this.until)
      throw new Refusal(
        'tooLarge',
        `Working this out takes more than ${LONGEST_WORK / 1000} s of work and was ended. Choose a shorter window or a narrower scope.`,
      );
  }
}

const asked = new AsyncLocalStorage<Question>();
export const questionNow = (): Question | null => asked.getStore() ?? null;
/** Everything that `work` does, and what it waits for, is done for this question. */
export const askedBy = <T>(question: Question, work: () => T): T => asked.run(question, work);

/** The same as a promise, unless whoever asks leaves before; what is under way then goes on by itself. */
export function unlessLeft<T>(work: Promise<T>): Promise<T> {
  const question = questionNow();
  if (question === null) return work;
  return new Promise<T>((done, failed) => {
    const forget = question.onLeave(() => failed(new AskerLeft()));
    work.then(done, failed).finally(forget);
  });
}

/** One piece of work for which several may wait. It goes on as long as anybody does. */
export class SharedWork<T> {
  private readonly question: Question;
  private readonly result: Promise<T>;
  private waiting = 0;
  private over = false;

  constructor(what: string, work: () => Promise<T>) {
    this.question = new Question(what);
    this.result = askedBy(this.question, work).finally(() => {
      this.over = true;
    });
    // whoever waits hears of it; when nobody does any more, there is nothing to tell
    this.result.catch(() => undefined);
  }
  /** True when nobody waited any more before it was done: it is begun anew for who comes now. */
  get abandoned(): boolean {
    return this.question.left && !this.over;
  }
  /** Until it is done. Who waits without a question of their own, such as a rule, never leaves. */
  async wait(): Promise<T> {
    this.waiting++;
    const forget = questionNow()?.onLeave(() => {
      if (--this.waiting === 0) this.question.leave();
    });
    try {
      return await this.result;
    } finally {
      forget?.();
    }
  }
  /** Whoever asked for it has an answer already: it is done for those who come later. */
  goOn(): void {
    this.waiting++;
  }
}
