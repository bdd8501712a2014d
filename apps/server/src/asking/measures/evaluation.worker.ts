import { parentPort } from 'node:worker_threads';
import { evaluate, movedBack, type Work } from './evaluation.ts';

const port = parentPort!; // this file runs as a worker only
port.on('message', (work: Work) => {
  const outcome = evaluate(work);
  port.postMessage(outcome, movedBack(outcome));
});
