import { parentPort } from 'node:worker_threads';
import { evaluate, type Work } from './evaluation.ts';

const port = parentPort!; // this file runs as a worker only
port.on('message', (work: Work) => port.postMessage(evaluate(work)));
