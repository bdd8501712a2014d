import { parentPort } from 'node:worker_threads';
import { movedBack, type RehearsalWork, type Work, workOut } from './evaluation.ts';

/** Told so often at most. */
const TOLD_EVERY = 250; // ms

const port = parentPort!; // this file runs as a worker only
port.on('message', (work: Work | RehearsalWork) => {
  let toldAt = performance.now();
  const outcome = workOut(work, (share) => {
    if (performance.now() - toldAt < TOLD_EVERY) return;
    toldAt = performance.now();
    port.postMessage({ share });
  });
  port.postMessage(outcome, movedBack(outcome));
});
