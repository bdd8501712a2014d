import {
  type Form,
  type FreshSeries,
  type LineProblem,
  type PageLimits,
  type PageRefusal,
  readPage,
} from '@zetopsis/core/exposition';
import type { Merged } from '@zetopsis/core/samples';
import { EdgeBuffer, type Samples } from '@zetopsis/core/samples';
import { LeaseLost, WorkClient } from './client.ts';
import { joinDay, rollDayAnew } from './days.ts';
import { mergeEndpoint, type Packed, packEndpoint } from './pack.ts';
import { Partitions } from './partitions.ts';
import { readWindow, type WindowOf, type WindowRead } from './readWindow.ts';

export type Job =
  | { readonly kind: 'pack'; readonly epoch: number; readonly endpoint: number; readonly until: number }
  /** Reads a page of timed samples and keeps it for 'merge'; `before`: later ones are left out. */
  | {
      readonly kind: 'parse';
      readonly bytes: Uint8Array;
      readonly form: Form;
      readonly limits: PageLimits;
      readonly before: number;
    }
  | { readonly kind: 'merge'; readonly epoch: number; readonly endpoint: number; readonly ids: Int32Array }
  /** `until`: nothing comes to what is before it any more. */
  | {
      readonly kind: 'joinDay';
      readonly epoch: number;
      readonly endpoint: number;
      readonly day: number;
      readonly until: number;
    }
  /** The day before a moment; answers up to where it is to be gone on with. */
  | { readonly kind: 'rollAnew'; readonly epoch: number; readonly endpoint: number; readonly before: number }
  | { readonly kind: 'read'; readonly window: WindowOf };
export interface Parsed {
  readonly series: readonly FreshSeries[];
  readonly samples: number;
  /** Samples without a time of their own, and those of a time that is not wanted. */
  readonly untimed: number;
  readonly leftOut: number;
  /** Lines that count for nothing. */
  readonly lost: number;
  /** Points that stand twice, the same both times. */
  readonly doubled: number;
  readonly problems: readonly LineProblem[];
  readonly problemCount: number;
  readonly refused: PageRefusal | null;
}
export interface Done {
  readonly parse: Parsed;
  readonly pack: Packed;
  readonly merge: Merged;
  readonly joinDay: null;
  readonly rollAnew: { readonly downTo: number };
  readonly read: WindowRead;
}
/** Errors as they cross to another thread: `code` is PostgreSQL's own, or one of ours. */
export interface JobFailure {
  readonly message: string;
  readonly code: string | null;
}

/** PostgreSQL: no partition takes the row. */
const NO_PARTITION = '23514';

/** The store's heavy work, one job after the other, on a connection of its own. */
export class StoreWork {
  private readonly client: WorkClient;
  private readonly partitions = new Partitions();
  private parsed: EdgeBuffer[] = [];
  constructor(databaseUrl: string) {
    this.client = new WorkClient(databaseUrl);
  }
  async do<K extends Job['kind']>(job: Extract<Job, { kind: K }>): Promise<Done[K]>;
  async do(job: Job): Promise<Done[keyof Done]> {
    try {
      return await this.once(job);
    } catch (error) {
      // what it made was taken back with it
      this.partitions.forget();
      // retention may have dropped a partition meanwhile
      if ((error as { code?: unknown } | null)?.code === NO_PARTITION) return this.once(job);
      throw error;
    }
  }
  private async once(job: Job): Promise<Done[keyof Done]> {
    const { client, partitions } = this;
    switch (job.kind) {
      case 'pack':
        return client.write(job.epoch, (own) =>
          packEndpoint({ client: own, partitions, endpoint: job.endpoint, until: job.until }),
        );
      case 'merge':
        return client.write(job.epoch, (own) =>
          mergeEndpoint({ client: own, partitions, endpoint: job.endpoint, series: this.numbered(job.ids) }),
        );
      case 'parse':
        return this.parse(job);
      case 'joinDay':
        await client.write(job.epoch, (own) =>
          joinDay({ client: own, partitions, endpoint: job.endpoint, day: job.day, until: job.until }),
        );
        return null;
      case 'rollAnew':
        return client.write(job.epoch, (own) =>
          rollDayAnew({ client: own, partitions, endpoint: job.endpoint, before: job.before }),
        );
      case 'read':
        return client.use((own) => readWindow(own, job.window));
    }
  }
  private parse({ bytes, form, limits, before }: Extract<Job, { kind: 'parse' }>): Parsed {
    const page = readPage(bytes, { form, limits });
    const buffers = page.fresh.map(() => new EdgeBuffer());
    let samples = 0;
    let untimed = 0;
    let leftOut = 0;
    page.slots.forEach((slot, i) => {
      const at = page.times?.[i] ?? Number.NaN;
      if (Number.isNaN(at)) untimed++;
      else if (at >= before || at < 0) leftOut++;
      else {
        buffers[slot]!.add(at, page.values[i]!);
        samples++;
      }
    });
    this.parsed = buffers;
    const { fresh: series, doubled, lost, problems, problemCount, refused } = page;
    return { series, samples, untimed, leftOut, doubled, lost, problems, problemCount, refused };
  }
  /** ids[slot] of the page that was parsed last; 0 where a series is not kept. */
  private numbered(ids: Int32Array): Map<number, Samples> {
    const series = new Map<number, Samples>();
    ids.forEach((id, slot) => {
      const own = this.parsed[slot]?.series;
      if (id !== 0 && own && own.times.length > 0) series.set(id, own);
    });
    return series;
  }
  end(): Promise<void> {
    return this.client.end();
  }
}

export function failureOf(error: unknown): JobFailure {
  const code = error instanceof LeaseLost ? 'leaseLost' : ((error as { code?: unknown } | null)?.code ?? null);
  return {
    message: error instanceof Error ? error.message : String(error),
    code: typeof code === 'string' ? code : null,
  };
}
