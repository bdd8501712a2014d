import { Worker } from 'node:worker_threads';
import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import pLimit from 'p-limit';
import { AskerLeft } from '../../ground/platform/askerLeft.ts';
import { BegunAnew } from '../../ground/platform/begunAnew.ts';
import { questionNow } from '../../ground/platform/question.ts';
import { Settings } from '../../ground/platform/settings.ts';
import { type Done, failureOf, type Job, type JobFailure, StoreWork } from './threads/storeWork.ts';

/** A job that failed in a worker; `code` is PostgreSQL's own, or 'leaseLost'. */
export class JobFailed extends Error {
  readonly code: string | null;
  constructor({ message, code }: JobFailure) {
    super(message);
    this.code = code;
  }
}

/** One thread that does one job after the other; begun anew after it ended. */
class Lane {
  private worker: Worker | null = null;
  private inline: StoreWork | null = null;
  private readonly inOrder = pLimit(1);
  /** Jobs that were handed over: one under way, and the next one. */
  private readonly inHand = pLimit(2);
  private next = 1;
  private readonly waiting = new Map<number, { done: (done: never) => void; failed: (error: JobFailed) => void }>();
  private ending = false;
  constructor(
    private readonly databaseUrl: string,
    private readonly died: (why: string) => void,
  ) {}

  /** Jobs that wait or are under way. */
  busy = 0;
  async do<K extends Job['kind']>(job: Extract<Job, { kind: K }>): Promise<Done[K]> {
    this.busy++;
    try {
      return await this.anywhere(job);
    } finally {
      this.busy--;
    }
  }
  private anywhere<K extends Job['kind']>(job: Extract<Job, { kind: K }>): Promise<Done[K]> {
    // nothing is read for who left while it waited
    const question = job.kind === 'read' ? questionNow() : null;
    const here = import.meta.url.endsWith('.ts');
    return (here ? this.inOrder : this.inHand)(() => {
      if (question?.left === true) throw new AskerLeft();
      return here ? this.doHere(job) : this.doThere(job);
    });
  }
  /** From source a worker could not be loaded: the work is done here, in the same order. */
  private doHere<K extends Job['kind']>(job: Extract<Job, { kind: K }>): Promise<Done[K]> {
    this.inline ??= new StoreWork(this.databaseUrl);
    return this.inline.do(job).catch((error: unknown) => {
      throw new JobFailed(failureOf(error));
    });
  }
  private doThere<K extends Job['kind']>(job: Extract<Job, { kind: K }>): Promise<Done[K]> {
    this.worker ??= this.start();
    const id = this.next++;
    const { worker } = this;
    return new Promise((done, failed) => {
      this.waiting.set(id, { done, failed });
      worker.postMessage({ id, job });
    });
  }
  private start(): Worker {
    const worker = new Worker(new URL('./threads/storeWork.worker.js', import.meta.url), {
      workerData: this.databaseUrl,
    });
    worker.on('message', ({ id, done, failure }: { id: number; done: never; failure?: JobFailure }) => {
      const waiting = this.waiting.get(id);
      this.waiting.delete(id);
      if (failure) waiting?.failed(new JobFailed(failure));
      else waiting?.done(done);
    });
    const ended = (message: string) => {
      if (this.worker !== worker) return; // told already
      this.worker = null;
      if (!this.ending) this.died(message);
      for (const { failed } of this.waiting.values()) failed(new JobFailed({ message, code: null }));
      this.waiting.clear();
    };
    worker.on('error', (error) => ended(error.message));
    worker.on('exit', () => ended('the thread that does the work has ended'));
    return worker;
  }
  async end(): Promise<void> {
    this.ending = true;
    await this.inOrder(async () => undefined);
    await this.inline?.end();
    await this.worker?.terminate();
  }
}

/** Threads that read: what a window needs is read on as many processors. */
export const READERS = 2;

/** Where the store's heavy work is done: reading has threads of its own, so that a screen waits for no packing. */
@Injectable()
export class StoreWorkers implements OnApplicationShutdown {
  private readonly reading: readonly Lane[];
  private readonly writing: Lane;
  constructor(settings: Settings, anew: BegunAnew) {
    const lane = (what: string) => new Lane(settings.config.databaseUrl, (why) => anew.note(what, why));
    this.reading = Array.from({ length: READERS }, () => lane('The thread that reads what is kept'));
    this.writing = lane('The thread that packs what was read');
  }
  do<K extends Job['kind']>(job: Extract<Job, { kind: K }>): Promise<Done[K]> {
    if (job.kind !== 'read') return this.writing.do(job);
    return this.reading.reduce((free, lane) => (lane.busy < free.busy ? lane : free)).do(job);
  }
  async onApplicationShutdown(): Promise<void> {
    await Promise.all([...this.reading, this.writing].map((lane) => lane.end()));
  }
}
