import { questionNow } from './question.ts';

/** Nothing else waits longer than this for a long list to be walked. */
const PIECE = 20; // ms

/** Works that have done a piece and wait to go on. */
const waiting: (() => void)[] = [];
/** One at each turn of the event loop: many at once would be as long a stop as one that never lets others in. */
function goOn(): void {
  const next = waiting.shift();
  if (waiting.length > 0) setImmediate(goOn);
  next?.();
}
/** Lets everything else go first; of all that wait so, one goes on at each turn of the event loop. */
export const turn = (): Promise<void> =>
  new Promise((done) => {
    if (waiting.push(done) === 1) setImmediate(goOn);
  });

/** Lets others in between whenever a piece took long enough, and ends what nobody waits for any more. */
export class Pieces {
  private began = performance.now();
  constructor(private readonly piece = PIECE) {}

  /** Whether it is time to let others in; called after each small step. */
  get due(): boolean {
    return performance.now() - this.began >= this.piece;
  }
  async pause(): Promise<void> {
    const worked = performance.now() - this.began;
    await turn();
    questionNow()?.check(worked);
    this.began = performance.now();
  }
}

/** Does something with every item, and lets readings and requests in between. Many short lists share their pieces. */
export async function inPieces<T>(items: Iterable<T>, work: (item: T) => void, pieces = new Pieces()): Promise<void> {
  for (const item of items) {
    work(item);
    if (pieces.due) await pieces.pause();
  }
}

/** Runs to the end what yields after each small step, and lets others in between. */
export async function yieldedInPieces<T>(work: Generator<unknown, T>, pieces = new Pieces()): Promise<T> {
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
    if (pieces.due) await pieces.pause();
  }
}
