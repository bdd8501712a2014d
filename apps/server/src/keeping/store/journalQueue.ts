import { Injectable } from '@nestjs/common';
import type { EdgeReading } from '@zetopsis/core/samples';
import type { EpochMs } from '@zetopsis/core/units';
import { LiveService } from '../../ground/live/live.service.ts';
import { databaseProblem, isOrphaned, neverFits } from '../../ground/platform/databaseProblem.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { DatabaseTroubles } from './databaseTroubles.ts';
import { LeaseService } from './lease.service.ts';
import { NewestReadings } from './newestReadings.ts';
import { type JournalRow, SampleStore } from './sample.store.ts';

const AT_ONCE = 500;
const BYTES_AT_ONCE = 16 * 1024 * 1024;
export const RETRY_AFTER = 1000;

/** What became of a row; `why` in words. */
export type Written =
  | { readonly kind: 'written' | 'notOurs' | 'gone' }
  | { readonly kind: 'givenUp'; readonly why: string };
export interface WaitingRow {
  readonly row: JournalRow;
  readonly reading: EdgeReading;
  readonly done: (written: Written) => void;
}

/** Readings on their way to the journal: everything that waits goes into one commit, the next one gathers what came meanwhile. */
@Injectable()
export class JournalQueue {
  private waiting: WaitingRow[] = [];
  private waitingBytes = 0;
  private writing = false;
  /** The front of what waits: it may be stored already. */
  private writingNow: readonly WaitingRow[] = [];
  /** Readings at the front that are written one by one, since one of them does not fit. */
  private oneByOne = 0;
  private stopping = false;

  constructor(
    private readonly store: SampleStore,
    private readonly newest: NewestReadings,
    private readonly troubles: DatabaseTroubles,
    private readonly lease: LeaseService,
    private readonly live: LiveService,
    private readonly log: ServerLog,
  ) {}

  get count(): number {
    return this.waiting.length;
  }
  get bytes(): number {
    return this.waitingBytes;
  }
  get oldestAt(): EpochMs | null {
    let oldest: EpochMs | null = null;
    // what is being written waits still
    for (const { row } of this.waiting) if (oldest === null || row.at < oldest) oldest = row.at;
    return oldest;
  }
  /** Whether readings of an endpoint up to a moment are on their way. */
  awaits(endpointId: number, until: EpochMs): boolean {
    const ahead = (one: WaitingRow) => one.row.endpointId === endpointId && one.row.at <= until;
    return this.waiting.some(ahead) || this.writingNow.some(ahead);
  }
  push(one: WaitingRow): void {
    this.waitingBytes += one.row.payload.length;
    this.waiting.push(one);
    void this.write();
  }
  /** The one that may be given up first: not one that is being written. */
  get oldest(): WaitingRow | undefined {
    return this.waiting[this.writingNow.length];
  }
  giveUpOldest(why: string): void {
    const [gone] = this.waiting.splice(this.writingNow.length, 1);
    if (!gone) return;
    this.waitingBytes -= gone.row.payload.length;
    gone.done({ kind: 'givenUp', why });
  }
  /** Writes what it can once more; nothing waits for PostgreSQL from now on. */
  async end(): Promise<void> {
    this.stopping = true;
    await this.write();
  }

  private async write(): Promise<void> {
    if (this.writing) return;
    this.writing = true;
    try {
      while (this.waiting.length > 0) if (!(await this.writeSome())) return;
    } finally {
      this.writing = false;
    }
  }
  /** False when no more is to be written. */
  private async writeSome(): Promise<boolean> {
    const { table, batch } = this.nextBatch();
    const rows = batch.map(({ row }) => row);
    try {
      await this.store.append(table, rows, this.lease.epoch);
    } catch (error) {
      if (isLeaseLost(error)) {
        this.lease.lost();
        for (const { done } of this.waiting) done({ kind: 'notOurs' });
        this.keepOnly([]);
        return false;
      }
      if (neverFits(error)) {
        this.leaveOut(batch, error);
        return true;
      }
      this.troubles.away('journal', error, this.waiting.length);
      if (this.stopping) return false;
      await new Promise((done) => setTimeout(done, RETRY_AFTER));
      return true;
    }
    this.writingNow = [];
    this.oneByOne = Math.max(0, this.oneByOne - batch.length);
    this.troubles.back('journal');
    // what had to be given up meanwhile is gone from the front
    this.keepOnly(this.waiting.slice(batch.filter((one) => this.waiting.includes(one)).length));
    for (const { row, reading, done } of batch) {
      this.newest.add(row.endpointId, reading, table === 'journal');
      done({ kind: 'written' });
    }
    this.live.touch('samples');
    return true;
  }
  private keepOnly(waiting: WaitingRow[]): void {
    this.waiting = waiting;
    this.waitingBytes = waiting.reduce((sum, { row }) => sum + row.payload.length, 0);
  }
  /** One of these does not fit: they are tried one by one, and the one that is alone is given up. */
  private leaveOut(batch: readonly WaitingRow[], error: unknown): void {
    this.writingNow = [];
    this.oneByOne = Math.max(this.oneByOne, batch.length);
    if (batch.length > 1) return;
    this.oneByOne--;
    this.keepOnly(this.waiting.filter((one) => one !== batch[0]));
    const gone = isOrphaned(error);
    if (!gone) this.log.failure('readingDoesNotFit', error, { endpoint: batch[0]!.row.endpointId });
    batch[0]!.done(gone ? { kind: 'gone' } : { kind: 'givenUp', why: databaseProblem(error) });
  }
  /** What is behind the packing of its endpoint by now, or will be when that is done, goes to what came late. */
  private nextBatch(): { table: 'journal' | 'journal_late'; batch: WaitingRow[] } {
    const tableOf = ({ row }: WaitingRow) => (this.newest.isPast(row.endpointId, row.at) ? 'journal_late' : 'journal');
    const table = tableOf(this.waiting[0]!); // it is asked only while something waits
    const batch: WaitingRow[] = [];
    let bytes = 0;
    for (const one of this.waiting) {
      if (batch.length === (this.oneByOne > 0 ? 1 : AT_ONCE) || bytes > BYTES_AT_ONCE || tableOf(one) !== table) break;
      batch.push(one);
      bytes += one.row.payload.length;
    }
    this.writingNow = batch;
    return { table, batch };
  }
}
const isLeaseLost = (error: unknown): boolean => error instanceof Error && error.constructor.name === 'LeaseLost';
