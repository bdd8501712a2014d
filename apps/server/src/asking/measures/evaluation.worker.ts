import { parentPort, workerData } from 'node:worker_threads';
import { evaluate, type Work } from './evaluation.ts';

// this file runs as a worker only, for one measure
parentPort!.postMessage(evaluate(workerData as Work));
