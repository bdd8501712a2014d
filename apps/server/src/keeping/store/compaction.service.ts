import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { DAY, type DurationMs, type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { JournalQueue } from './journalQueue.ts';
import { LeaseService } from './lease.service.ts';
import { NewestReadings } from './newestReadings.ts';
import { SampleStore } from './sample.store.ts';
import { SamplesService } from './samples.service.ts';
import { SeriesNumbers } from './seriesNumbers.ts';
import { JobFailed, StoreWorkers } from './storeWorkers.service.ts';
import { CHUNK_SAMPLES, FIVE } from './tiers.ts';

const EVERY = MINUTE;
const LONGEST_WAIT = 2 * HOUR;
const SHORTEST_WAIT = 15 * MINUTE;
/** Samples that may be in memory; with more coming in, readings are packed earlier: some 0.8 GB. */
const EDGE_SAMPLES = 100_000_000;
/** Readings may still be on their way for so long. */
const SETTLES = 2 * MINUTE;

/** What is older cannot come as a reading any more: it is too late then, and nothing of it waits. */
const NOTHING_COMES = 2 * DAY;
const NOTHING_PACKED = { until: 0, joined: 0, anew: 0 };
/** What was rolled up in an older way is done anew for so long at a time. */
const ANEW_AT_ONCE = 20_000; // ms

/** Packs the journal into chunks and roll-ups, drops what is packed, and joins days that are over. */
@Injectable()
export class CompactionService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly packing = new Repeated(() => this.turn(), EVERY);
  private rate = { at: 0, samples: 0, perMs: 0 };
  private newestLayoutBefore = 0;
  private cleanedAt = 0;
  problem: string | null = null;

  constructor(
    private readonly store: SampleStore,
    private readonly samples: SamplesService,
    private readonly newest: NewestReadings,
    private readonly queue: JournalQueue,
    private readonly numbers: SeriesNumbers,
    private readonly workers: StoreWorkers,
    private readonly lease: LeaseService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  onApplicationBootstrap(): void {
    this.packing.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.packing.stop();
  }

  private async turn(): Promise<void> {
    if (this.lease.epoch === 0) return;
    this.measure();
    try {
      await this.packDue();
      await this.joinDays();
      await this.rollAnew();
      if (this.clock.now() - this.cleanedAt > 10 * MINUTE) await this.clean();
      this.problem = null;
    } catch (error) {
      if (error instanceof JobFailed && error.code === 'leaseLost') this.lease.lost();
      this.problem = error instanceof Error ? error.message : String(error);
      this.log.failure('notPacked', error);
    }
  }
  private measure(): void {
    const now = this.clock.now();
    const { samplesTaken } = this.samples;
    if (this.rate.at > 0) this.rate.perMs = (samplesTaken - this.rate.samples) / Math.max(1, now - this.rate.at);
    this.rate = { ...this.rate, at: now, samples: samplesTaken };
  }
  /** How long a reading may wait to be packed; shorter where much comes in, since it waits in memory. */
  private get wait(): DurationMs {
    const fits = this.rate.perMs === 0 ? LONGEST_WAIT : EDGE_SAMPLES / this.rate.perMs;
    return Math.min(LONGEST_WAIT, Math.max(SHORTEST_WAIT, fits));
  }

  private async packDue(): Promise<void> {
    const { wait } = this;
    for (const [endpoint, { readings, first, late }] of [...this.newest.unpacked]) {
      if (this.packing.ending) return;
      const now = this.clock.now();
      if (!late && readings < CHUNK_SAMPLES && now - first < wait) continue;
      await this.pack(endpoint, now - SETTLES, Math.min(HOUR, wait / 2));
    }
  }
  /** Packs an endpoint's readings up to the last full bucket before a moment. */
  async pack(endpoint: number, before: EpochMs, edgeKeeps: DurationMs = HOUR): Promise<void> {
    const until = Math.floor(before / FIVE) * FIVE;
    if (this.queue.awaits(endpoint, until)) return;
    this.newest.beginPacking(endpoint, until);
    try {
      const packed = await this.workers.do<'pack'>({ kind: 'pack', epoch: this.lease.epoch, endpoint, until });
      this.newest.packedTo(endpoint, packed.until, edgeKeeps);
    } finally {
      this.newest.endPacking(endpoint);
    }
  }

  /** Rows of a day become one, and its hours are made, once nothing can come to it any more. */
  async joinDays(): Promise<void> {
    // no reading of these was packed yet: what there is was brought in
    for (const endpoint of await this.store.neverPacked())
      if (!this.newest.packed.has(endpoint)) this.newest.packed.set(endpoint, NOTHING_PACKED);
    const past = this.clock.now() - NOTHING_COMES;
    for (const [endpoint, packed] of [...this.newest.packed]) {
      const { joined } = packed;
      const until = Math.max(packed.until, Math.min(past, (this.newest.unpacked.get(endpoint)?.first ?? past) - 1));
      let day = joined / DAY;
      if (joined === 0) {
        const first = await this.store.firstPackedAt(endpoint);
        if (first === null) continue;
        day = Math.floor(first / DAY);
      }
      // an hour later, so that what comes late is mostly there
      for (; until >= (day + 1) * DAY + HOUR && !this.packing.ending; day++) {
        await this.workers.do<'joinDay'>({ kind: 'joinDay', epoch: this.lease.epoch, endpoint, day, until });
        this.newest.joinedTo(endpoint, (day + 1) * DAY);
      }
    }
  }

  /** Days that were rolled up in an older way, the newest first, as far as there are samples of them. */
  private async rollAnew(): Promise<void> {
    const until = this.clock.now() + ANEW_AT_ONCE;
    for (const [endpoint, { anew }] of [...this.newest.packed]) {
      for (let before = anew; before > 0; ) {
        if (this.packing.ending || this.clock.now() > until) return;
        const { epoch } = this.lease;
        before = (await this.workers.do<'rollAnew'>({ kind: 'rollAnew', epoch, endpoint, before })).downTo;
        this.newest.anewDownTo(endpoint, before);
      }
    }
  }

  /** Partitions of the journal that are packed and not needed in memory at the next start, and layouts of no reading. */
  async clean(): Promise<void> {
    this.cleanedAt = this.clock.now();
    for (const partition of await this.store.journalPartitions()) {
      if (partition.to > this.clock.now() - HOUR) break;
      if (await this.store.isPacked(partition)) await this.store.drop(partition);
    }
    const newest = await this.store.newestLayout();
    await this.store.removeLayouts(this.numbers.layoutsInUse, this.newestLayoutBefore);
    this.newestLayoutBefore = newest;
  }
}
