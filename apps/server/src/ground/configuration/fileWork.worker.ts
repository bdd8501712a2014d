import { parentPort, workerData } from 'node:worker_threads';
import { type FileJob, fileWork } from './fileWork.ts';

// this file runs as a worker only, and does one job
parentPort!.postMessage(fileWork(workerData as FileJob));
