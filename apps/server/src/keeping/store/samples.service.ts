import { Injectable, type OnApplicationShutdown, type OnModuleInit } from '@nestjs/common';
import type { Page, PageMemory } from '@zetopsis/core/exposition';
import {
  decodeFrame,
  type EdgeReading,
  encodeFrame,
  type Frame,
  Layout,
  type RolledSamples,
  type Sample,
  type Samples,
} from '@zetopsis/core/samples';
import type { LabelMatch } from '@zetopsis/core/series';
import { type EpochMs, HOUR, type SeriesId } from '@zetopsis/core/units';
import { databaseProblem, isOrphaned, neverFits } from '../../ground/platform/databaseProblem.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Clock } from '../../ground/platform/settings.ts';
import type { Acceptance } from './acceptance.ts';
import { DatabaseTroubles } from './databaseTroubles.ts';
import { ExemplarsService } from './exemplars.service.ts';
import { JournalQueue, RETRY_AFTER, type Written } from './journalQueue.ts';
import { LeaseService } from './lease.service.ts';
import { NewestReadings } from './newestReadings.ts';
import { SampleStore } from './sample.store.ts';
import { SeriesNumbers, type Shape, type Unnamed } from './seriesNumbers.ts';
import { StoreLimits } from './storeLimits.ts';
import { StoreWorkers } from './storeWorkers.service.ts';
import { sizeOf, type WaitingPage, WaitingPages } from './waitingPages.ts';
import { type ReadingOf, Windows } from './windows.ts';

/** What is packed stays in memory this long as well, so that short windows need no chunk at all. */
const EDGE_KEEPS = HOUR;

export interface Reading {
  readonly endpointId: number;
  readonly at: EpochMs;
  readonly readAt: EpochMs;
  readonly durationMs: number;
  readonly page: Page;
  /** The page's own. */
  readonly memory: PageMemory;
}
/** Takes readings durably, keeps the newest in memory, and answers for any window. */
@Injectable()
export class SamplesService implements OnModuleInit, OnApplicationShutdown {
  /** Samples taken since the start. */
  samplesTaken = 0;
  private readonly windows: Windows;
  private loading: Promise<void> = Promise.resolve();
  /** Pages that wait for numbers of their series, in the order in which they came. */
  private readonly pages = new WaitingPages<Acceptance>();
  private laying = false;
  private stopping = false;
  /** Since the start: readings given up, samples too old, moments read twice with other values. */
  private readonly counts = { lost: 0, tooOld: 0, doubledSame: 0, doubledOther: 0 };

  constructor(
    private readonly store: SampleStore,
    private readonly newest: NewestReadings,
    private readonly queue: JournalQueue,
    private readonly troubles: DatabaseTroubles,
    private readonly limits: StoreLimits,
    private readonly exemplars: ExemplarsService,
    private readonly numbers: SeriesNumbers,
    private readonly lease: LeaseService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
    workers: StoreWorkers,
  ) {
    this.windows = new Windows(newest, numbers.table, workers);
  }

  async onModuleInit(): Promise<void> {
    await this.load();
    this.lease.onChange((held) => {
      if (held) this.loading = this.load().catch((error: unknown) => this.log.failure('journalNotLoaded', error));
    });
  }
  /** Series and edge as the database has them; also when this process takes over from another, which wrote meanwhile. */
  private async load(): Promise<void> {
    await this.numbers.load();
    this.newest.startAt(await this.store.packed());
    const since = this.clock.now() - EDGE_KEEPS;
    const layouts = new Map(
      (await this.store.layouts(await this.store.readingsInUse(since))).map(({ id, seriesIds }) => [
        id,
        new Layout(seriesIds),
      ]),
    );
    await this.store.eachReading(since, (row) => {
      const layout = layouts.get(row.layoutId);
      if (layout) this.newest.add(row.endpointId, { at: row.at, layout, frame: decodeFrame(row.payload) }, row.ring);
    });
  }
  async onApplicationShutdown(): Promise<void> {
    this.stopping = true;
    await this.lay();
    await this.queue.end();
    const lost = this.queue.count + this.pages.count;
    if (lost > 0)
      this.log.failure('readingsLost', new Error('Zetopsis ended while PostgreSQL did not take readings'), { lost });
  }
  get status() {
    return {
      series: this.numbers.table.size,
      waiting: this.queue.count + this.pages.count,
      waitingBytes: this.queue.bytes + this.pages.bytes,
      problem: this.troubles.problem?.text ?? null,
      problemSince: this.troubles.problem?.since ?? null,
      heldBy: this.lease.heldBy,
      refusedSeries: this.numbers.refusedInAll,
      ...this.counts,
    };
  }

  // ---- taking -----------------------------------------------------------------------------------------------------

  /** The oldest reading that has been taken and cannot be asked for yet; null where there is none. */
  get oldestNotKept(): EpochMs | null {
    const [row, page] = [this.queue.oldestAt, this.pages.oldestAt];
    return row === null ? page : page === null ? row : Math.min(row, page);
  }
  /** Resolves once it is known what becomes of the reading: when it is durable, for those that are taken. */
  async accept(reading: Reading): Promise<Acceptance> {
    return (await this.begin(reading)).stored;
  }
  /**
   * Resolves once the page's memory may be used for the next one; `stored` once the reading is durable, which takes long
   * while PostgreSQL is away: then what is new on the page waits for its numbers beside the page itself.
   */
  async begin(reading: Reading): Promise<{ stored: Promise<Acceptance> }> {
    const { endpointId, at, page, memory } = reading;
    const answer = (acceptance: Acceptance) => ({ stored: Promise.resolve(acceptance) });
    const notTaken = (acceptance: Acceptance) => {
      // what was new on it is new on the next page, too
      memory.remember(null);
      return answer(acceptance);
    };
    if (this.lease.epoch === 0) return notTaken({ kind: 'notOurs' });
    await this.loading;
    if (at < this.clock.now() - this.limits.lateWindow) {
      this.counts.tooOld += page.values.length;
      return notTaken({ kind: 'tooOld' });
    }
    // one after the other: what ended is told by comparing a reading with the one before
    const behind = this.pages.has(endpointId);
    const shape = behind ? null : this.numbers.knownShape(endpointId, page, memory);
    const unnamed = shape === null ? this.numbers.unnamed(endpointId, page, memory) : null;
    try {
      if (!behind && (shape !== null || !this.troubles.has('series')))
        return await this.layOut(reading, shape ?? (await this.numbers.name(endpointId, unnamed!, at))); // one of both is there
    } catch (error) {
      if (neverFits(error)) return answer(this.unfit(error));
      this.troubles.away('series', error, this.status.waiting);
    }
    const waits = unnamed ?? this.numbers.unnamed(endpointId, page, memory);
    return { stored: new Promise((done) => this.waitForNumbers(reading, waits, done)) };
  }
  /** From a page whose series have numbers to what is written. */
  private async layOut(
    { endpointId, at, readAt, durationMs, page }: Omit<WaitingPage<Acceptance>, 'unnamed' | 'done'>,
    shape: Shape,
  ): Promise<{ stored: Promise<Acceptance> }> {
    const kept = this.keptOf(page.times, shape.kept, this.clock.now());
    const { layout, layoutId } =
      kept.places === shape.kept ? shape : await this.numbers.partOf(endpointId, shape, kept.places!);
    const { places, refused } = kept;
    this.counts.tooOld += refused;
    const values = places ? Float64Array.from(places, (i) => page.values[i]!) : page.values;
    const times = page.times
      ? Float64Array.from(places ?? values.keys(), (i) => (Number.isNaN(page.times![i]!) ? at : page.times![i]!))
      : null;
    const before = this.newest.edge.newest(endpointId);
    const ended = before && before.at < at ? endedSince(before, layout) : [];
    const frame: Frame = { values, times, ended };
    const known = this.newest.edge.readingAt(endpointId, at);
    if (known) {
      const equal =
        known.layout.ids.length === layout.ids.length &&
        known.frame.values.every((one, i) => Object.is(one, values[i]));
      if (equal) this.counts.doubledSame++;
      else this.counts.doubledOther++;
      return { stored: Promise.resolve({ kind: 'doubled' }) };
    }
    this.samplesTaken += values.length;
    void this.noteEnds(before, layout, at);
    if (page.exemplars.length > 0) {
      const idOf = new Map(Array.from(page.slots, (slot, place) => [slot, shape.ids[place]!]));
      void this.exemplars.note({
        endpointId,
        exemplars: page.exemplars,
        idOf: (slot) => idOf.get(slot) ?? 0,
        readAt: at,
      });
    }
    const payload = Buffer.from(encodeFrame(frame));
    const row = { endpointId, at, readAt, durationMs, bytes: page.bytes, layoutId, payload };
    const stored = new Promise<Acceptance>((done) => {
      this.makeRoom(payload.length);
      const told = (written: Written) =>
        done(
          written.kind === 'written'
            ? { kind: 'accepted', refused }
            : written.kind === 'givenUp'
              ? this.givenUp(written.why)
              : { kind: written.kind },
        );
      this.queue.push({ row, reading: { at, layout, frame }, done: told });
    });
    return { stored };
  }

  /** What waits is bounded: the oldest reading is given up for the newest. */
  private makeRoom(bytes: number): void {
    while (this.queue.bytes + this.pages.bytes + bytes > this.limits.waitingRoom) {
      const [row, page] = [this.queue.oldest, this.pages.oldest];
      const why = this.troubles.problem?.text ?? 'it takes less than what is read';
      if (page && (!row || page.at < row.row.at)) {
        this.pages.remove(page);
        page.done(this.givenUp(why));
      } else if (row) this.queue.giveUpOldest(why);
      else return;
    }
  }
  private unfit(error: unknown): Acceptance {
    return isOrphaned(error) ? { kind: 'gone' } : this.givenUp(databaseProblem(error));
  }
  private givenUp(why: string): Acceptance {
    this.counts.lost++;
    return { kind: 'givenUp', why };
  }
  private waitForNumbers(reading: Reading, unnamed: Unnamed, done: (acceptance: Acceptance) => void): void {
    const { endpointId, at, readAt, durationMs, page } = reading;
    const { values, times, exemplars, bytes, slots } = page;
    const own = { endpointId, at, readAt, durationMs, page: { values, times, exemplars, bytes, slots }, unnamed, done };
    this.makeRoom(sizeOf(own));
    this.pages.push(own);
    void this.lay();
  }
  /** Gives numbers to what waits for them, endpoint by endpoint, until nothing does. */
  private async lay(): Promise<void> {
    if (this.laying) return;
    this.laying = true;
    try {
      while (this.pages.count > 0) {
        if (this.lease.epoch === 0) {
          for (const { done } of this.pages.removeAll()) done({ kind: 'notOurs' });
          return;
        }
        const problem = await this.pages.tryEach(
          async (one) => {
            const shape = await this.numbers.name(one.endpointId, one.unnamed, one.at);
            const { stored } = await this.layOut(one, shape);
            this.pages.remove(one);
            void stored.then(one.done);
          },
          this.clock.now() - this.limits.lateWindow,
          (one, error) => one.done(this.unfit(error)),
        );
        if (problem === null) continue;
        this.troubles.away('series', problem, this.status.waiting);
        if (this.stopping) return;
        await new Promise((done) => setTimeout(done, RETRY_AFTER));
      }
      this.troubles.back('series');
    } finally {
      this.laying = false;
    }
  }

  /** Places of the samples that are kept: not those whose own time is too old, or ahead of all clocks. */
  private keptOf(
    times: Float64Array | null,
    kept: Int32Array | null,
    now: EpochMs,
  ): { places: Int32Array | null; refused: number } {
    const fits = (i: number) => Number.isNaN(times![i]!) || Math.abs(now - times![i]!) <= this.limits.lateWindow;
    if (!times || Array.from(times.keys()).every(fits)) return { places: kept, refused: 0 };
    const before = kept ?? Int32Array.from(times.keys());
    const places = before.filter(fits);
    return { places, refused: before.length - places.length };
  }

  /** A series that is gone may be forgotten once all that is kept of it is; one that is back may not. */
  private async noteEnds(before: EdgeReading | undefined, layout: Layout, at: EpochMs): Promise<void> {
    if (!before || before.layout === layout || before.at > at) return;
    const ended = endedSince(before, layout);
    const begun = endedSince({ ...before, layout }, before.layout);
    try {
      if (ended.length > 0) await this.store.seriesEnded(ended, at);
      if (begun.length > 0) await this.store.seriesEnded(begun, null);
    } catch {
      // it only delays the forgetting
    }
  }

  // ---- asking -----------------------------------------------------------------------------------------------------

  select(metric: string, matches: readonly LabelMatch[] = []): SeriesId[] {
    return this.numbers.table.select(metric, matches);
  }
  endpointOf(id: SeriesId): number | undefined {
    return this.numbers.table.endpointOf(id);
  }
  label(id: SeriesId, name: string): string {
    return this.numbers.table.label(id, name);
  }
  /** When series were told for the first time. */
  async bornOf(ids: readonly SeriesId[]): Promise<ReadonlyMap<SeriesId, EpochMs>> {
    return new Map((await this.store.bornOf(ids)).map(({ id, born_ms }) => [id as SeriesId, born_ms]));
  }
  firstReadingsAt(endpointIds: readonly number[]): Promise<ReadonlyMap<number, EpochMs>> {
    return this.store.firstReadingsAt(endpointIds);
  }
  /** Whether the newest reading of its endpoint has it. */
  standsNow(id: SeriesId): boolean {
    const newest = this.newest.edge.newest(this.endpointOf(id) ?? -1);
    return newest !== undefined && newest.layout.placeOf(id) >= 0;
  }
  /** Samples from a moment on that lies lately, from memory only: cheap enough for every judgement. */
  recent(id: SeriesId, since: EpochMs = Number.NEGATIVE_INFINITY): Samples {
    return this.newest.edge.samples(this.endpointOf(id) ?? -1, id, since);
  }

  /** The newest up to a moment that lies lately, as it is: an end, too. */
  newestAt(id: SeriesId, at: EpochMs): Sample | null {
    return this.newest.edge.newestAt(this.endpointOf(id) ?? -1, id, at);
  }

  /** Samples of many series in a window, from memory and from what is packed (windows.ts). */
  read({ ids, resolution = 'samples', ...window }: ReadingOf): Promise<Map<SeriesId, RolledSamples>> {
    return this.windows.read(ids, { ...window, resolution });
  }

  /** Deletes everything that was read from these endpoints. */
  async forget(endpointIds: readonly number[]): Promise<void> {
    for (const id of endpointIds) {
      this.numbers.forget(id);
      this.newest.forget(id);
    }
    await this.store.forget(endpointIds);
  }
}

/** Series of the reading before that the next one lacks have ended. */
function endedSince(before: EdgeReading, layout: Layout): SeriesId[] {
  if (before.layout === layout) return [];
  const now = new Set(layout.ids);
  return [...before.layout.ids].filter((id) => !now.has(id));
}
