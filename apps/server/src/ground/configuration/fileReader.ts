import { Worker } from 'node:worker_threads';
import { DOCUMENT_KINDS } from '@zetopsis/contract';
import { Refusal } from '../platform/refusals.ts';
import type { Documents } from './documents.ts';
import { type FileDone, type FileJob, fileWork, type Wanted } from './fileWork.ts';

const LONGEST = 20_000; // ms
const MOST_MEMORY = 512; // MiB

/**
 * Reads a file that somebody wrote in a thread of its own, since some texts of a megabyte take many seconds; one that takes
 * longer than that, or more memory than there should be need for, is given up.
 */
export function readApart(text: string, now: Documents, wanted: readonly Wanted[] = []): Promise<FileDone> {
  const keys = Object.fromEntries(
    DOCUMENT_KINDS.map((kind) => [kind, [...now.all(kind).keys()]]),
  ) as unknown as FileJob['keys']; // every kind
  const job: FileJob = { text, keys, wanted };
  // from source a worker could not be loaded: the work is done here
  if (import.meta.url.endsWith('.ts')) return Promise.resolve(fileWork(job));
  const worker = new Worker(new URL('./fileWork.worker.js', import.meta.url), {
    workerData: job,
    resourceLimits: { maxOldGenerationSizeMb: MOST_MEMORY },
  });
  const tooMuch = () =>
    new Refusal(
      'tooLarge',
      'Reading this file takes too long, or too much memory. Read it in parts, section by section.',
    );
  return new Promise<FileDone>((done, failed) => {
    const timer = setTimeout(() => failed(tooMuch()), LONGEST);
    worker.once('message', done);
    worker.once('error', () => failed(tooMuch()));
    worker.once('exit', () => {
      clearTimeout(timer);
      failed(tooMuch()); // nothing any more where it has answered
    });
  }).finally(() => worker.terminate());
}
