import { setImmediate } from 'node:timers/promises';

/** Nothing else waits longer than this for a long list to be walked. */
const PIECE = 20; // ms
const LOOKED_AT_EVERY = 8;

/** Does something with every item, and lets readings and requests in between. */
export async function inPieces<T>(items: Iterable<T>, work: (item: T) => void): Promise<void> {
  let began = performance.now();
  let count = 0;
  for (const item of items) {
    work(item);
    if (++count % LOOKED_AT_EVERY !== 0 || performance.now() - began < PIECE) continue;
    await setImmediate();
    began = performance.now();
  }
}
