import { parentPort, workerData } from 'node:worker_threads';
import { failureOf, type Job, StoreWork } from './storeWork.ts';

const port = parentPort!; // this file runs as a worker only
const work = new StoreWork(workerData as string); // the address of the database
let turn: Promise<void> = Promise.resolve();

port.on('message', ({ id, job }: { id: number; job: Job }) => {
  turn = turn.then(async () => {
    try {
      const done = await work.do(job);
      const moved = job.kind === 'read' && done && 'times' in done ? [done.times.buffer, done.values.buffer] : [];
      port.postMessage({ id, done }, moved as ArrayBuffer[]); // made by this thread, never shared
    } catch (error) {
      port.postMessage({ id, failure: failureOf(error) });
    }
  });
});
