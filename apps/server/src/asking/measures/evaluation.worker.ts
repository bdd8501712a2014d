import { parentPort } from 'node:worker_threads';
import { movedBack, type RehearsalWork, type Work, workOut } from './evaluation.ts';

const port = parentPort!; // this file runs as a worker only
port.on('message', (work: Work | RehearsalWork) => {
  const outcome = workOut(work);
  port.postMessage(outcome, movedBack(outcome));
});
