import { setImmediate } from 'node:timers/promises';
import { Injectable, type OnApplicationShutdown, type OnModuleInit } from '@nestjs/common';
import type { Page, PageMemory } from '@zetopsis/core/exposition';
import {
  decodeFrame,
  type EdgeReading,
  encodeFrame,
  type Frame,
  grown,
  Layout,
  LiveEdge,
  rollUp,
  type Samples,
  samplesOfRollUp,
} from '@zetopsis/core/samples';
import type { LabelMatch } from '@zetopsis/core/series';
import { type DurationMs, type EpochMs, HOUR, type SeriesId } from '@zetopsis/core/units';
import { LiveService } from '../live/live.service.ts';
import { databaseProblem, neverFits } from '../platform/databaseProblem.ts';
import { inPieces } from '../platform/inPieces.ts';
import { ServerLog } from '../platform/logger.ts';
import { questionNow } from '../platform/question.ts';
import { Clock } from '../platform/settings.ts';
import { ExemplarsService } from './exemplars.service.ts';
import { LeaseService } from './lease.service.ts';
import { type EndpointPacked, type JournalRow, SampleStore } from './sample.store.ts';
import { SeriesNumbers, type Shape, type Unnamed } from './seriesNumbers.ts';
import { StoreWorkers } from './storeWorkers.service.ts';
import { type Resolution, TIERS } from './tiers.ts';
import { sizeOf, type WaitingPage, WaitingPages } from './waitingPages.ts';
import { mergeSamples } from './work/merge.ts';

/** What is packed stays in memory this long as well, so that short windows need no chunk at all. */
const EDGE_KEEPS = HOUR;
const AT_ONCE = 500;
/** Endpoints whose chunks are read together. */
const READ_AT_ONCE = 24;
const BYTES_AT_ONCE = 16 * 1024 * 1024;
const RETRY_AFTER = 1000;
const EMPTY: Samples = { times: [], values: [] };

export interface Reading {
  readonly endpointId: number;
  readonly at: EpochMs;
  readonly readAt: EpochMs;
  readonly durationMs: number;
  readonly page: Page;
  /** The page's own. */
  readonly memory: PageMemory;
}
/** What became of a reading. */
export type Acceptance =
  /** It is durable. `refused`: its samples that were too old. */
  | { readonly kind: 'accepted'; readonly refused: number }
  /** There is a reading of this moment already: it counts. */
  | { readonly kind: 'doubled' }
  | { readonly kind: 'tooOld' }
  /** It had to be given up: PostgreSQL did not take it for too long, or never will; `why` in words. */
  | { readonly kind: 'givenUp'; readonly why: string }
  | { readonly kind: 'notOurs' };

interface Waiting {
  readonly row: JournalRow;
  readonly reading: EdgeReading;
  readonly done: (acceptance: Acceptance) => void;
}

/** Takes readings durably, keeps the newest in memory, and answers for any window. */
@Injectable()
export class SamplesService implements OnModuleInit, OnApplicationShutdown {
  readonly edge = new LiveEdge();
  /** From here on the edge of an endpoint is complete; older samples are in chunks only. */
  private readonly edgeFrom = new Map<number, EpochMs>();
  packed = new Map<number, EndpointPacked>();
  /** Readings of each endpoint that are not packed yet: how many, and the first of them. */
  readonly unpacked = new Map<number, { readings: number; first: EpochMs; late: boolean }>();
  lateWindow: DurationMs = HOUR;
  /** Bytes of readings that may wait while PostgreSQL is away. */
  waitingRoom = 256 * 1024 * 1024;
  /** Samples taken since the start. */
  samplesTaken = 0;
  private loading: Promise<void> = Promise.resolve();
  /** Endpoints of which something came late since their packing began. */
  private readonly lateSince = new Set<number>();
  private waiting: Waiting[] = [];
  private waitingBytes = 0;
  private writing = false;
  private writingNow: readonly Waiting[] = [];
  /** Endpoints that are being packed, and up to when. */
  private readonly packing = new Map<number, EpochMs>();
  private stopping = false;
  /** Pages that wait for numbers of their series, in the order in which they came. */
  private readonly pages = new WaitingPages<Acceptance>();
  private laying = false;
  private readonly problems = new Map<'journal' | 'series', { text: string; since: number }>();
  /** Readings at the front that are written one by one, since one of them does not fit. */
  private oneByOne = 0;
  /** Since the start: readings given up, samples too old, moments read twice with other values. */
  private readonly counts = { lost: 0, tooOld: 0, doubledSame: 0, doubledOther: 0 };

  constructor(
    private readonly store: SampleStore,
    private readonly exemplars: ExemplarsService,
    private readonly numbers: SeriesNumbers,
    private readonly workers: StoreWorkers,
    private readonly lease: LeaseService,
    private readonly live: LiveService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  async onModuleInit(): Promise<void> {
    await this.load();
    this.lease.onChange((held) => {
      if (held) this.loading = this.load().catch((error: unknown) => this.log.failure('journalNotLoaded', error));
    });
  }
  /** Series and edge as the database has them; also when this process takes over from another, which wrote meanwhile. */
  private async load(): Promise<void> {
    await this.numbers.load();
    this.packed = await this.store.packed();
    this.edge.clear();
    this.edgeFrom.clear();
    this.unpacked.clear();
    const since = this.clock.now() - EDGE_KEEPS;
    const layouts = new Map(
      (await this.store.layouts(await this.store.readingsInUse(since))).map(({ id, seriesIds }) => [
        id,
        new Layout(seriesIds),
      ]),
    );
    await this.store.eachReading(since, (row) => {
      const layout = layouts.get(row.layoutId);
      if (layout) this.toEdge(row.endpointId, { at: row.at, layout, frame: decodeFrame(row.payload) }, row.ring);
    });
  }
  async onApplicationShutdown(): Promise<void> {
    this.stopping = true;
    await this.lay();
    await this.write();
    const lost = this.waiting.length + this.pages.count;
    if (lost > 0)
      this.log.failure('readingsLost', new Error('Zetopsis ended while PostgreSQL did not take readings'), { lost });
  }
  private get problem() {
    return this.problems.get('journal') ?? this.problems.get('series') ?? null;
  }

  get status() {
    return {
      series: this.numbers.table.size,
      waiting: this.waiting.length + this.pages.count,
      waitingBytes: this.waitingBytes + this.pages.bytes,
      problem: this.problem?.text ?? null,
      problemSince: this.problem?.since ?? null,
      heldBy: this.lease.heldBy,
      refusedSeries: this.numbers.refusedInAll,
      ...this.counts,
    };
  }

  // ---- taking -----------------------------------------------------------------------------------------------------

  /** The oldest reading that has been taken and cannot be asked for yet; null where there is none. */
  get oldestNotKept(): EpochMs | null {
    let oldest: EpochMs | null = null;
    // what is being written waits still
    for (const { row } of this.waiting) if (oldest === null || row.at < oldest) oldest = row.at;
    const page = this.pages.oldestAt;
    return oldest === null ? page : page === null ? oldest : Math.min(oldest, page);
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
    if (this.lease.epoch === 0) return answer({ kind: 'notOurs' });
    await this.loading;
    if (at < this.clock.now() - this.lateWindow) {
      this.counts.tooOld += page.values.length;
      return answer({ kind: 'tooOld' });
    }
    // one after the other: what ended is told by comparing a reading with the one before
    const behind = this.pages.has(endpointId);
    const shape = behind ? null : this.numbers.knownShape(endpointId, page, memory);
    const unnamed = shape === null ? this.numbers.unnamed(endpointId, page, memory) : null;
    try {
      if (!behind && (shape !== null || !this.problems.has('series')))
        return await this.layOut(reading, shape ?? (await this.numbers.name(endpointId, unnamed!, at))); // one of both is there
    } catch (error) {
      if (neverFits(error)) return answer(this.givenUp(databaseProblem(error)));
      this.away('series', error);
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
    const before = this.edge.newest(endpointId);
    const ended = before && before.at < at ? endedSince(before, layout) : [];
    const frame: Frame = { values, times, ended };
    const known = this.edge.readingAt(endpointId, at);
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
      void this.exemplars.note(endpointId, page.exemplars, (slot) => idOf.get(slot) ?? 0, at);
    }
    const payload = Buffer.from(encodeFrame(frame));
    const row = { endpointId, at, readAt, durationMs, bytes: page.bytes, layoutId, payload };
    const stored = new Promise<Acceptance>((done) => {
      this.makeRoom(payload.length);
      this.waitingBytes += payload.length;
      this.waiting.push({
        row,
        reading: { at, layout, frame },
        done: (acceptance) => done(acceptance.kind === 'accepted' ? { kind: 'accepted', refused } : acceptance),
      });
      void this.write();
    });
    return { stored };
  }

  // ---- what waits -------------------------------------------------------------------------------------------------

  /** What waits is bounded: the oldest reading is given up for the newest. */
  private makeRoom(bytes: number): void {
    while (this.waitingBytes + this.pages.bytes + bytes > this.waitingRoom) {
      // what is being written may be stored already
      const row = this.waiting[this.writingNow.length];
      const page = this.pages.oldest;
      const why = this.problem?.text ?? 'it takes less than what is read';
      if (page && (!row || page.at < row.row.at)) {
        this.pages.remove(page);
        page.done(this.givenUp(why));
      } else if (row) {
        this.waiting.splice(this.writingNow.length, 1);
        this.waitingBytes -= row.row.payload.length;
        row.done(this.givenUp(why));
      } else return;
    }
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
          this.clock.now() - this.lateWindow,
          (one, error) => one.done(this.givenUp(databaseProblem(error))),
        );
        if (problem === null) continue;
        this.away('series', problem);
        if (this.stopping) return;
        await new Promise((done) => setTimeout(done, RETRY_AFTER));
      }
      this.back('series');
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
    const fits = (i: number) => Number.isNaN(times![i]!) || Math.abs(now - times![i]!) <= this.lateWindow;
    if (!times || Array.from(times.keys()).every(fits)) return { places: kept, refused: 0 };
    const before = kept ?? Int32Array.from(times.keys());
    const places = before.filter(fits);
    return { places, refused: before.length - places.length };
  }

  private toEdge(endpointId: number, reading: EdgeReading, ring: boolean): void {
    const { at } = reading;
    if (!ring) this.lateSince.add(endpointId);
    if (!this.edge.add(endpointId, reading)) return;
    const packedUntil = this.packed.get(endpointId)?.until ?? 0;
    const edgeFrom = this.edgeFrom.get(endpointId);
    // before the first reading of the ring there may be more in chunks; what came late says nothing of its neighbours
    if (ring && (edgeFrom === undefined || at < edgeFrom)) this.edgeFrom.set(endpointId, at);
    if (ring && at <= packedUntil) return;
    const waits = this.unpacked.get(endpointId);
    if (waits) {
      waits.readings++;
      waits.first = Math.min(waits.first, at);
      waits.late ||= !ring;
    } else this.unpacked.set(endpointId, { readings: 1, first: at, late: !ring });
  }

  /** Everything that waits goes into one commit; the next one gathers what came meanwhile. */
  private async write(): Promise<void> {
    if (this.writing) return;
    this.writing = true;
    try {
      while (this.waiting.length > 0) {
        const { table, batch } = this.nextBatch();
        try {
          await this.store.append(
            table,
            batch.map(({ row }) => row),
            this.lease.epoch,
          );
        } catch (error) {
          if (isLeaseLost(error)) {
            this.lease.lost();
            for (const { done } of this.waiting) done({ kind: 'notOurs' });
            this.waiting = [];
            this.waitingBytes = 0;
            return;
          }
          if (neverFits(error)) {
            this.leaveOut(batch, error);
            continue;
          }
          this.away('journal', error);
          if (this.stopping) return;
          await new Promise((done) => setTimeout(done, RETRY_AFTER));
          continue;
        }
        this.writingNow = [];
        this.oneByOne = Math.max(0, this.oneByOne - batch.length);
        this.back('journal');
        // what had to be given up meanwhile is gone from the front
        this.waiting = this.waiting.slice(batch.filter((one) => this.waiting.includes(one)).length);
        this.waitingBytes = this.waiting.reduce((sum, { row }) => sum + row.payload.length, 0);
        for (const { row, reading, done } of batch) {
          this.toEdge(row.endpointId, reading, table === 'journal');
          done({ kind: 'accepted', refused: 0 });
        }
        this.live.touch('samples');
      }
    } finally {
      this.writing = false;
    }
  }
  /** One of these does not fit: they are tried one by one, and the one that is alone is given up. */
  private leaveOut(batch: readonly Waiting[], error: unknown): void {
    this.writingNow = [];
    this.oneByOne = Math.max(this.oneByOne, batch.length);
    if (batch.length > 1) return;
    this.oneByOne--;
    this.waiting = this.waiting.filter((one) => one !== batch[0]);
    this.waitingBytes = this.waiting.reduce((sum, { row }) => sum + row.payload.length, 0);
    this.log.failure('readingDoesNotFit', error, { endpoint: batch[0]!.row.endpointId });
    batch[0]!.done(this.givenUp(databaseProblem(error)));
  }
  /** What is behind the packing of its endpoint by now, or will be when that is done, goes to what came late. */
  private nextBatch(): { table: 'journal' | 'journal_late'; batch: Waiting[] } {
    const tableOf = ({ row }: Waiting) =>
      row.at <= Math.max(this.packed.get(row.endpointId)?.until ?? 0, this.packing.get(row.endpointId) ?? 0)
        ? 'journal_late'
        : 'journal';
    const table = tableOf(this.waiting[0]!); // it is asked only while something waits
    const batch: Waiting[] = [];
    let bytes = 0;
    for (const one of this.waiting) {
      if (batch.length === (this.oneByOne > 0 ? 1 : AT_ONCE) || bytes > BYTES_AT_ONCE || tableOf(one) !== table) break;
      batch.push(one);
      bytes += one.row.payload.length;
    }
    this.writingNow = batch;
    return { table, batch };
  }
  private away(what: 'journal' | 'series', error: unknown): void {
    const since = this.problems.get(what)?.since;
    if (since === undefined) this.log.failure('readingsNotWritten', error, { what, waiting: this.status.waiting });
    this.problems.set(what, { text: databaseProblem(error), since: since ?? this.clock.now() });
    this.live.touch('sources');
  }
  private back(what: 'journal' | 'series'): void {
    if (!this.problems.delete(what)) return;
    this.log.note('readingsWritten', `PostgreSQL takes readings again (${what})`);
    this.live.touch('sources');
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

  // ---- packing: what the compaction tells -------------------------------------------------------------------------

  /** False while readings of that time are on their way to the journal. */
  beginPacking(endpointId: number, until: EpochMs): boolean {
    const ahead = (one: Waiting) => one.row.endpointId === endpointId && one.row.at <= until;
    if (this.waiting.some(ahead) || this.writingNow.some(ahead)) return false;
    this.packing.set(endpointId, until);
    this.lateSince.delete(endpointId);
    return true;
  }
  endPacking(endpointId: number): void {
    this.packing.delete(endpointId);
  }
  packedTo(endpointId: number, until: EpochMs, edgeKeeps: DurationMs): void {
    this.packed.set(endpointId, { until, joined: this.packed.get(endpointId)?.joined ?? 0 });
    const border = Math.max(Math.min(until, this.clock.now() - edgeKeeps), this.edgeFrom.get(endpointId) ?? 0);
    this.edgeFrom.set(endpointId, border);
    this.edge.cut(endpointId, border);
    const left = this.edge.readingsAfter(endpointId, until);
    const late = this.lateSince.has(endpointId);
    if (left.length === 0 && !late) this.unpacked.delete(endpointId);
    else this.unpacked.set(endpointId, { readings: left.length, first: left[0]?.at ?? until, late });
  }
  joinedTo(endpointId: number, joined: EpochMs): void {
    this.packed.set(endpointId, { until: this.packed.get(endpointId)?.until ?? 0, joined });
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
  firstReadingAt(endpointId: number): Promise<EpochMs | null> {
    return this.store.firstReadingAt(endpointId);
  }
  /** Whether the newest reading of its endpoint has it. */
  standsNow(id: SeriesId): boolean {
    const newest = this.edge.newest(this.endpointOf(id) ?? -1);
    return newest !== undefined && newest.layout.placeOf(id) >= 0;
  }
  /** Newest samples, in memory only: cheap enough for every judgement. */
  recent(id: SeriesId): Samples {
    const endpoint = this.endpointOf(id);
    return endpoint === undefined ? EMPTY : this.edge.samples(endpoint, id);
  }

  /**
   * Samples of many series in a window, oldest first, from chunks and the live edge without a seam. From roll-ups they
   * are one a bucket, at its end: of what counts up its growth, of anything else its last value.
   */
  async read(
    ids: readonly SeriesId[],
    from: EpochMs,
    to: EpochMs,
    resolution: Resolution = 'samples',
  ): Promise<Map<SeriesId, Samples>> {
    const result = new Map<SeriesId, Samples>();
    const byEndpoint = new Map<number, SeriesId[]>();
    await inPieces(ids, (id) => {
      const endpoint = this.endpointOf(id);
      if (endpoint === undefined) return;
      const edgeFrom = this.edgeFrom.get(endpoint) ?? Number.POSITIVE_INFINITY;
      if (resolution === 'samples' && edgeFrom <= from) result.set(id, this.edge.samples(endpoint, id));
      else {
        const list = byEndpoint.get(endpoint);
        if (list) list.push(id);
        else byEndpoint.set(endpoint, [id]);
      }
    });
    const readOne = async ([endpoint, own]: [number, SeriesId[]]) => {
      // the border and the edge are taken before the chunks are read: packing may move both meanwhile
      const edgeFrom = this.edgeFrom.get(endpoint) ?? Number.POSITIVE_INFINITY;
      const packedUntil = this.packed.get(endpoint)?.until ?? 0;
      const border = resolution === 'samples' ? edgeFrom : packedUntil + 1;
      const edges = own.map((id) => this.edge.samples(endpoint, id));
      const packed = await this.workers.do<'read'>({
        kind: 'read',
        window: {
          endpoint,
          ids: Int32Array.from(own),
          cumulative: Uint8Array.from(own, (id) => (this.numbers.table.isCumulative(id) ? 1 : 0)),
          from,
          to: resolution === 'samples' ? Math.min(to, border - 1) : to,
          resolution,
        },
      });
      own.forEach((id, i) => {
        const stored = {
          times: packed.times.subarray(packed.starts[i], packed.starts[i + 1]),
          values: packed.values.subarray(packed.starts[i], packed.starts[i + 1]),
        };
        result.set(
          id,
          resolution === 'samples'
            ? joined(until(stored, border), edges[i]!)
            : this.rolledOn(stored, edges[i]!, border, TIERS[resolution].bucket, id),
        );
      });
    };
    // a thousand at once would keep everything else waiting while their edges are taken
    const endpoints = [...byEndpoint];
    for (let at = 0; at < endpoints.length; at += READ_AT_ONCE) {
      await Promise.all(endpoints.slice(at, at + READ_AT_ONCE).map(readOne));
      await setImmediate();
      questionNow()?.check();
    }
    return result;
  }
  /** What is not packed yet, rolled up as it will be, behind what is. */
  private rolledOn(stored: Samples, edge: Samples, border: EpochMs, bucket: DurationMs, id: SeriesId): Samples {
    let first = 0;
    while (first < edge.times.length && edge.times[first]! < border) first++;
    if (first === edge.times.length) return stored;
    const cumulative = this.numbers.table.isCumulative(id);
    const own = { times: edge.times.slice(first), values: edge.values.slice(first) };
    const rolled = rollUp(own, bucket);
    if (rolled.starts.length === 0) return stored;
    // an hour may be packed in part, and packing may have gone on meanwhile: the edge's buckets count, and go on from there
    const known = until(stored, own.times[0]! + bucket - 1);
    const kept = until(stored, rolled.starts[0]!);
    const fresh = samplesOfRollUp(rolled, bucket, cumulative);
    let base = 0;
    if (cumulative && known.values.length > 0) {
      base = known.values[known.values.length - 1]!;
      const step = first > 0 ? grown(edge.values[first - 1]!, own.values[0]!) : 0;
      if (!Number.isNaN(step)) base += step;
    }
    // the newest bucket is not over yet: it is as old as its last sample
    const newest = own.times[own.times.length - 1]!;
    return {
      times: appended(
        kept.times,
        Float64Array.from(fresh.times, (time) => Math.min(time, newest)),
      ),
      values: appended(
        kept.values,
        Float64Array.from(fresh.values, (value) => value + base),
      ),
    };
  }

  /** Deletes everything that was read from these endpoints. */
  async forget(endpointIds: readonly number[]): Promise<void> {
    for (const id of endpointIds) {
      this.numbers.forget(id);
      this.edge.forget(id);
      this.edgeFrom.delete(id);
      this.packed.delete(id);
      this.unpacked.delete(id);
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
const isLeaseLost = (error: unknown): boolean => error instanceof Error && error.constructor.name === 'LeaseLost';

/** The part of it before a moment. */
function until({ times, values }: Samples, border: EpochMs): Samples {
  let end = times.length;
  while (end > 0 && times[end - 1]! >= border) end--;
  return { times: times.slice(0, end), values: values.slice(0, end) };
}
function appended(list: Samples['times'], more: Samples['times']): Float64Array {
  const both = new Float64Array(list.length + more.length);
  both.set(list);
  both.set(more, list.length);
  return both;
}
/** Chunks count up to the border; the edge holds what is after it, and what came late and is not packed yet. */
function joined(stored: Samples, edge: Samples): Samples {
  if (stored.times.length === 0) return edge;
  if (edge.times.length === 0) return stored;
  return mergeSamples(stored, edge).samples;
}
