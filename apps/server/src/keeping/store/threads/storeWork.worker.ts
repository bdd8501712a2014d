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
      const lists = done && 'times' in done ? [done.times, done.values, ...Object.values(done.beside)] : [];
      port.postMessage({ id, done }, lists.map(({ buffer }) => buffer) as ArrayBuffer[]); // made by this thread, never shared
    } catch (error) {
      port.postMessage({ id, failure: failureOf(error) });
    }
  }),
);
