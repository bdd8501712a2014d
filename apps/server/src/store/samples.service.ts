import { createHash } from 'node:crypto';
import { Injectable, type OnApplicationShutdown, type OnModuleInit } from '@nestjs/common';
import type { PageSample } from '@zetopsis/core/exposition';
import { decodeChunk, decodeFrame, END_MARKER, encodeChunk, encodeFrame, type Samples } from '@zetopsis/core/samples';
import { LabelIndex, type LabelMatch, seriesKey } from '@zetopsis/core/series';
import type { EpochMs, SeriesId } from '@zetopsis/core/units';
import { LiveService } from '../live/live.service.ts';
import { ServerLog } from '../platform/logger.ts';
import { Clock } from '../platform/settings.ts';
import { LiveEdge } from './liveEdge.ts';
import { type ChunkRow, type JournalRow, SampleStore } from './sample.store.ts';

/** A chunk is due after this many readings or this long, whichever comes first. */
const CHUNK_READINGS = 480;
const CHUNK_AGE = 2 * 3_600_000;
/** What is in chunks stays in memory this long as well, so that short windows need no chunk at all. */
const EDGE_KEEPS = 3_600_000;
const COMPACT_EVERY = 60_000;
/** Readings that may wait while PostgreSQL is away. */
const WAITING_LIMIT = 20_000;
const RETRY_AFTER = 1000;
const EMPTY: Samples = { times: [], values: [] };

export interface Reading {
  readonly endpointId: number;
  readonly at: EpochMs;
  readonly readAt: EpochMs;
  readonly durationMs: number;
  readonly bytes: number;
  readonly samples: readonly PageSample[];
  /** A series that this endpoint's reading before had and this one lacks has ended; false for what is imported. */
  readonly endsMissing: boolean;
}

interface SeriesInfo {
  readonly endpointId: number;
  readonly metric: string;
  readonly labels: readonly (readonly [string, string])[];
}

interface Waiting {
  readonly row: JournalRow;
  readonly apply: () => void;
  readonly done: (accepted: boolean) => void;
}

const digest = (text: string) => createHash('sha256').update(text).digest().subarray(0, 16);

/** Takes readings durably, keeps the newest in memory, packs the rest, and answers for any window. */
@Injectable()
export class SamplesService implements OnModuleInit, OnApplicationShutdown {
  private readonly index = new LabelIndex();
  private readonly info = new Map<SeriesId, SeriesInfo>();
  private readonly ids = new Map<string, SeriesId>();
  private readonly layouts = new Map<number, readonly SeriesId[]>();
  private readonly layoutIds = new Map<string, number>();
  private readonly lastLayout = new Map<number, readonly SeriesId[]>();
  private readonly edge = new LiveEdge();
  /** From here on the edge of an endpoint is complete; older samples are in chunks only. */
  private readonly edgeFrom = new Map<number, EpochMs>();
  /** End of an endpoint's newest chunk. */
  private packedUntil = new Map<number, EpochMs>();
  private readonly idOfLabels = new WeakMap<PageSample['labels'], SeriesId>();
  /** Most readings of an endpoint hold the same series in the same order as the one before. */
  private readonly recentLayout = new Map<number, { readonly ids: readonly SeriesId[]; readonly id: number }>();
  private waiting: Waiting[] = [];
  private writing = false;
  private readonly compactTimer: NodeJS.Timeout;
  private problem: string | null = null;
  private lost = 0;
  private stopping = false;
  /** One endpoint's new series are numbered one reading at a time. */
  private numbering: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly store: SampleStore,
    private readonly live: LiveService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {
    this.compactTimer = setInterval(() => void this.compactAll(), COMPACT_EVERY);
  }

  async onModuleInit(): Promise<void> {
    for (const row of await this.store.allSeries()) this.know(row.id, row);
    for (const layout of await this.store.allLayouts()) this.layouts.set(layout.id, layout.seriesIds);
    this.packedUntil = await this.store.packedUntil();
    for (const { endpointId, oldest } of await this.store.endpointsInJournal()) {
      this.edgeFrom.set(endpointId, Math.max(oldest, (this.packedUntil.get(endpointId) ?? 0) + 1));
      for (const row of await this.store.journalOf(endpointId, Number.MAX_SAFE_INTEGER)) this.toEdge(row);
    }
  }
  async onApplicationShutdown(): Promise<void> {
    clearInterval(this.compactTimer);
    this.stopping = true;
    await this.write();
  }

  get status() {
    return { series: this.info.size, waiting: this.waiting.length, problem: this.problem, lost: this.lost };
  }

  /** Resolves to true once the reading is durable, to false when it had to be given up. */
  async accept(reading: Reading): Promise<boolean> {
    const ids = await this.identify(reading);
    const layoutId = await this.layoutFor(reading.endpointId, ids);
    const before = this.lastLayout.get(reading.endpointId) ?? [];
    const now = new Set(ids);
    const ended = reading.endsMissing ? before.filter((id) => !now.has(id)) : [];
    if (reading.endsMissing) this.lastLayout.set(reading.endpointId, ids);
    const values = reading.samples.map(({ value }) => value);
    const timed = reading.samples.some(({ at }) => at !== null);
    const times = timed ? reading.samples.map(({ at }) => at ?? reading.at) : null;
    const row: JournalRow = {
      endpointId: reading.endpointId,
      at: reading.at,
      readAt: reading.readAt,
      durationMs: reading.durationMs,
      bytes: reading.bytes,
      layoutId,
      payload: Buffer.from(encodeFrame({ values, ended, times })),
    };
    return new Promise((done) => {
      if (this.waiting.length >= WAITING_LIMIT) {
        this.waiting.shift()?.done(false);
        this.lost++;
      }
      this.waiting.push({ row, apply: () => this.toEdge(row), done });
      void this.write();
    });
  }

  select(metric: string, matches: readonly LabelMatch[] = []): SeriesId[] {
    return this.index.select(metric, matches).filter((id) => this.info.has(id));
  }
  endpointOf(id: SeriesId): number | undefined {
    return this.info.get(id)?.endpointId;
  }
  label(id: SeriesId, name: string): string {
    return this.info.get(id)?.labels.find(([known]) => known === name)?.[1] ?? '';
  }

  firstReadingAt(endpointId: number): Promise<EpochMs | null> {
    return this.store.firstReadingAt(endpointId);
  }

  /** Newest sample times in memory only: cheap enough for every judgement. */
  recent(id: SeriesId): Samples {
    return this.edge.get(id) ?? EMPTY;
  }

  /** Samples of many series in a window, oldest first, from chunks and the live edge without a seam. */
  async read(ids: readonly SeriesId[], from: EpochMs, to: EpochMs): Promise<Map<SeriesId, Samples>> {
    const result = new Map<SeriesId, Samples>();
    const byEndpoint = new Map<number, SeriesId[]>();
    for (const id of ids) {
      const endpointId = this.info.get(id)?.endpointId;
      if (endpointId === undefined) continue;
      const edgeFrom = this.edgeFrom.get(endpointId) ?? Number.POSITIVE_INFINITY;
      if (edgeFrom <= from) result.set(id, this.recent(id));
      else {
        const list = byEndpoint.get(endpointId);
        if (list) list.push(id);
        else byEndpoint.set(endpointId, [id]);
      }
    }
    await Promise.all(
      [...byEndpoint].map(async ([endpointId, own]) => {
        // the border and the edge are taken before the chunks are read: compaction may move both meanwhile
        const border = this.edgeFrom.get(endpointId) ?? Number.POSITIVE_INFINITY;
        const edges = new Map(own.map((id) => [id, this.recent(id)]));
        const chunks = await this.store.chunks(endpointId, own, from, Math.min(to, border - 1));
        for (const id of own)
          result.set(
            id,
            joined(
              chunks.filter(({ seriesId }) => seriesId === id),
              border,
              edges.get(id)!,
            ),
          );
      }),
    );
    return result;
  }

  /** Deletes everything that was read from these endpoints. */
  async forget(endpointIds: readonly number[]): Promise<void> {
    const gone = new Set(endpointIds);
    for (const [key, id] of this.ids) {
      const info = this.info.get(id);
      if (info === undefined || !gone.has(info.endpointId)) continue;
      this.ids.delete(key);
      this.info.delete(id);
      this.edge.cut([id], Number.POSITIVE_INFINITY);
    }
    for (const id of gone) {
      this.lastLayout.delete(id);
      this.recentLayout.delete(id);
      this.edgeFrom.delete(id);
      this.packedUntil.delete(id);
    }
    await this.store.forget(endpointIds);
  }

  // ---- identity -------------------------------------------------------------------------------------------------

  private know(id: SeriesId, row: SeriesInfo): void {
    this.index.add(id, row.metric, row.labels);
    this.info.set(id, { endpointId: row.endpointId, metric: row.metric, labels: row.labels });
    this.ids.set(`${row.endpointId} ${seriesKey(row.metric, row.labels)}`, id);
  }

  /**
   * A page that is read warm hands out the same list of labels for the same line each time: it leads to the number at
   * once. Any other list is looked up by the series' whole identity.
   */
  private idOf(endpointId: number, sample: PageSample): SeriesId | undefined {
    const known = this.idOfLabels.get(sample.labels);
    if (known !== undefined && this.info.get(known)?.endpointId === endpointId) return known;
    const id = this.ids.get(`${endpointId} ${sample.key}`);
    if (id !== undefined) this.idOfLabels.set(sample.labels, id);
    return id;
  }

  private async identify({ endpointId, samples, at }: Reading): Promise<SeriesId[]> {
    const known = samples.map((sample) => this.idOf(endpointId, sample));
    if (known.every((id) => id !== undefined)) return known;
    // new series get ascending numbers one reading after the other, as the label index needs them
    this.numbering = this.numbering
      .catch(() => undefined)
      .then(async () => {
        const unique = new Map(
          samples.filter((sample) => this.idOf(endpointId, sample) === undefined).map((sample) => [sample.key, sample]),
        );
        if (unique.size === 0) return;
        const fresh = [...unique.values()];
        const rows = fresh.map((sample) => ({
          identity: digest(sample.key),
          metric: sample.name,
          labels: sample.labels,
          cumulative: sample.cumulative,
        }));
        const ids = await this.store.addSeries(endpointId, rows, at);
        const numbered = fresh.map((sample, i) => ({ sample, id: ids[i]! })).sort((a, b) => a.id - b.id);
        for (const { sample, id } of numbered)
          this.know(id, { endpointId, metric: sample.name, labels: sample.labels });
      });
    await this.numbering;
    return samples.map((sample) => this.idOf(endpointId, sample)!); // all known by now
  }

  private async layoutFor(endpointId: number, ids: readonly SeriesId[]): Promise<number> {
    const recent = this.recentLayout.get(endpointId);
    if (recent && recent.ids.length === ids.length && recent.ids.every((id, i) => id === ids[i])) return recent.id;
    const id = await this.layoutOf(endpointId, ids);
    this.recentLayout.set(endpointId, { ids, id });
    return id;
  }
  private async layoutOf(endpointId: number, ids: readonly SeriesId[]): Promise<number> {
    const identity = digest(ids.join(','));
    const key = `${endpointId} ${identity.toString('hex')}`;
    const known = this.layoutIds.get(key);
    if (known !== undefined) return known;
    const id = await this.store.addLayout(endpointId, identity, ids);
    this.layouts.set(id, ids);
    this.layoutIds.set(key, id);
    return id;
  }

  private toEdge(row: JournalRow): void {
    const ids = this.layouts.get(row.layoutId) ?? [];
    const { values, ended, times } = decodeFrame(row.payload);
    ids.forEach((id, i) => {
      this.edge.add(id, times?.[i] ?? row.at, values[i]!);
    });
    for (const id of ended) this.edge.add(id, row.at, END_MARKER);
    const edgeFrom = this.edgeFrom.get(row.endpointId);
    const older = edgeFrom === undefined || row.at < edgeFrom;
    if (older && row.at > (this.packedUntil.get(row.endpointId) ?? 0)) this.edgeFrom.set(row.endpointId, row.at);
  }

  // ---- durability -----------------------------------------------------------------------------------------------

  /** Everything that waits goes into one commit; the next one gathers what came meanwhile. */
  private async write(): Promise<void> {
    if (this.writing) return;
    this.writing = true;
    try {
      while (this.waiting.length > 0) {
        const batch = this.waiting.slice(0, 500);
        try {
          await this.store.append(batch.map(({ row }) => row));
        } catch (error) {
          if (this.problem === null) this.log.failure('journalNotWritten', error, { waiting: this.waiting.length });
          this.problem = error instanceof Error ? error.message : String(error);
          this.live.touch('sources');
          if (this.stopping) return;
          await new Promise((done) => setTimeout(done, RETRY_AFTER));
          continue;
        }
        this.problem = null;
        this.waiting = this.waiting.slice(batch.length);
        for (const { apply, done } of batch) {
          apply();
          done(true);
        }
        this.live.touch('samples');
      }
    } finally {
      this.writing = false;
    }
  }

  private async compactAll(): Promise<void> {
    try {
      for (const { endpointId, readings, oldest } of await this.store.endpointsInJournal()) {
        const now = this.clock.now();
        if (readings < CHUNK_READINGS && now - oldest < CHUNK_AGE) continue;
        await this.compact(endpointId, now - EDGE_KEEPS / 2);
      }
    } catch (error) {
      this.log.failure('notCompacted', error);
    }
  }

  /** Packs an endpoint's journal up to a moment into one chunk per series (more where there are many samples). */
  async compact(endpointId: number, until: EpochMs): Promise<void> {
    const rows = await this.store.journalOf(endpointId, until);
    if (rows.length === 0) return;
    const gathered = new LiveEdge();
    const ids = new Set<SeriesId>();
    for (const row of rows) {
      const layout = this.layouts.get(row.layoutId) ?? [];
      const { values, ended, times } = decodeFrame(row.payload);
      layout.forEach((id, i) => {
        ids.add(id);
        gathered.add(id, times?.[i] ?? row.at, values[i]!);
      });
      for (const id of ended) {
        ids.add(id);
        gathered.add(id, row.at, END_MARKER);
      }
    }
    const chunks: ChunkRow[] = [];
    for (const id of ids) {
      const { times, values } = gathered.get(id)!; // gathered above
      for (let start = 0; start < times.length; start += CHUNK_READINGS) {
        const part = {
          times: times.slice(start, start + CHUNK_READINGS),
          values: values.slice(start, start + CHUNK_READINGS),
        };
        chunks.push({
          endpointId,
          seriesId: id,
          from: part.times[0]!,
          to: part.times.at(-1)!,
          samples: part.times.length,
          payload: Buffer.from(encodeChunk(part)),
        });
      }
    }
    await this.store.replaceByChunks(endpointId, rows.at(-1)!.at, chunks);
    this.packedUntil.set(endpointId, Math.max(this.packedUntil.get(endpointId) ?? 0, rows.at(-1)!.at));
    const keep = this.clock.now() - EDGE_KEEPS;
    const border = Math.max(keep, this.edgeFrom.get(endpointId) ?? 0);
    this.edgeFrom.set(endpointId, border);
    this.edge.cut(ids, border);
  }
}

/** Chunks count up to the border; the edge holds what is after it, and what came late and is not packed yet. */
function joined(chunks: readonly ChunkRow[], border: EpochMs, edge: Samples): Samples {
  const one = new LiveEdge();
  const add = ({ times, values }: Samples, before: EpochMs) => {
    for (let i = 0; i < times.length; i++) if (times[i]! < before) one.add(0, times[i]!, values[i]!);
  };
  for (const chunk of chunks) add(decodeChunk(chunk.payload), border);
  add(edge, Number.POSITIVE_INFINITY);
  return one.get(0) ?? EMPTY;
}
