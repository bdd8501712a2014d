import { parentPort, workerData } from 'node:worker_threads';
import pLimit from 'p-limit';
import { failureOf, type Job, StoreWork } from './storeWork.ts';

const port = parentPort!; // this file runs as a worker only
const work = new StoreWork(workerData as string); // the address of the database
const inOrder = pLimit(1);

port.on('message', ({ id, job }: { id: number; job: Job }) =>
  inOrder(async () => {
    try {
      const done = await work.do(job);
      const moved = job.kind === 'read' && done && 'times' in done ? [done.times.buffer, done.values.buffer] : [];
      port.postMessage({ id, done }, moved as ArrayBuffer[]); // made by this thread, never shared
    } catch (error) {
      port.postMessage({ id, failure: failureOf(error) });
    }
  }),
);
