import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { type Origin, streamOf } from '@zetopsis/core/origins';
import { OpenTraces, type SamplingChoice, type Span } from '@zetopsis/core/spans';
import { type EpochMs, MINUTE, SECOND } from '@zetopsis/core/units';
import { LRUCache } from 'lru-cache';
import pLimit from 'p-limit';
import { LiveService } from '../../ground/live/live.service.ts';
import { databaseProblem } from '../../ground/platform/databaseProblem.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LeaseService } from '../store/lease.service.ts';
import { CommitLane } from './commitLane.ts';
import { JournalMemory } from './journalMemory.ts';
import { LineStore } from './line.store.ts';
import { couldNotBeTaken } from './lines.service.ts';
import type { PushMark } from './recordStore.ts';
import { TraceStore } from './trace.store.ts';
import {
  journalSpans,
  type KeptSpan,
  type KeptTrace,
  OriginNumbers,
  spansIn,
  spansPayload,
  traceBlockOf,
} from './traceBlocks.ts';

/** What one sender pushed, tied to what it comes from. */
export interface TiedSpans {
  readonly origin: Origin;
  readonly spans: readonly Span[];
}
interface Waiting {
  readonly mark: PushMark;
  readonly at: EpochMs;
  readonly tied: readonly TiedSpans[];
  readonly choice: SamplingChoice;
  readonly bytes: number;
}

const MOST_WAITING = 32 * 1024 * 1024;
const AT_ONCE = 8 * 1024 * 1024;
/** About what a span takes in memory. */
const SPAN_BYTES = 1000;
/** Spans that may wait for the rest of their traces; where there are more, traces that began first are decided now. */
const MOST_OPEN = 100_000;
const BLOCK_SPANS = 5000;
const BLOCK_AFTER = 2 * MINUTE;
const LOADED_AT_ONCE = 200;

/** Keeps spans: journalled when they are accepted, held together until their trace is complete, then kept in blocks or let go. */
@Injectable()
export class TracesService implements OnApplicationBootstrap, OnApplicationShutdown {
  readonly open = new OpenTraces<KeptSpan>();
  /** Kept, and in no block yet; since when. */
  pending: KeptTrace[] = [];
  private pendingSince: EpochMs = 0;
  /** What was decided lately: what comes late goes the way of the rest of its trace. */
  private readonly decided = new LRUCache<string, number>({ max: 100_000 });
  private nextId = 1;
  private settled = 0;
  private readonly memory = new JournalMemory(() => this.load());
  private readonly lane = new CommitLane<Waiting>(
    (some) => this.memory.change(() => this.write(some)),
    async () => {
      if (this.open.spans > MOST_OPEN) await this.settle();
    },
    { atOnce: AT_ONCE, waiting: MOST_WAITING },
  );
  private readonly settling = new Repeated(() => this.settle(), 5 * SECOND);
  private readonly oneByOne = pLimit(1);

  constructor(
    private readonly store: TraceStore,
    private readonly streams: LineStore,
    private readonly lease: LeaseService,
    private readonly live: LiveService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {
    lease.onChange(() => this.memory.forget());
  }
  onApplicationBootstrap(): void {
    this.settling.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.settling.stop();
  }
  ready(): Promise<void> {
    return this.memory.ready();
  }

  private async load(): Promise<void> {
    this.open.clear();
    this.pending = [];
    this.settled = await this.store.watermark();
    // what is in a block already is not taken once more
    const packed = new Set<string>();
    for (const block of await this.store.blocksAfter(this.settled))
      for (const { traceId, spanId } of await spansIn(block)) packed.add(`${traceId} ${spanId}`);
    let last = this.settled;
    for (;;) {
      const rows = await this.store.journal(last, LOADED_AT_ONCE);
      for (const { id, at, choice, origins, payload } of rows) {
        for (const { origin, ...span } of await journalSpans(payload))
          if (!packed.has(`${span.traceId} ${span.spanId}`))
            this.open.add({ ...span, from: origins[origin]!, journalId: id }, at, choice); // each span is of one of them
        last = id;
      }
      if (rows.length < LOADED_AT_ONCE) break;
    }
    this.nextId = last + 1;
  }

  /** Answers once it is durable, and whether it is new: false of what was pushed before. A refusal where it cannot be taken now. */
  async take(mark: PushMark, tied: readonly TiedSpans[], choice: SamplingChoice): Promise<boolean> {
    if (this.lease.epoch === 0)
      throw new Refusal('unavailable', 'Another process of Zetopsis writes now. Send it there.', [], 5);
    if (this.lane.isFull) throw new Refusal('tooMany', 'More comes in than can be stored now. Send it again.', [], 2);
    const bytes = tied.reduce((sum, { spans }) => sum + spans.length * SPAN_BYTES, 0);
    try {
      // they are known from now on, not only when something of them is packed
      for (const { origin } of tied) await this.streams.streamIdOf(streamOf(origin), this.clock.now());
      return await this.lane.push({ mark, at: this.clock.now(), tied, choice, bytes });
    } catch (error) {
      throw couldNotBeTaken(error, (own) => this.log.failure('spansNotKept', own));
    }
  }
  private async write(some: readonly Waiting[]): Promise<readonly boolean[]> {
    const pushes = await Promise.all(
      some.map(async ({ mark, at, tied, choice }) => {
        const numbers = new OriginNumbers();
        const spans = tied.flatMap(({ origin, spans: own }) => {
          const place = numbers.numberOf(origin);
          return own.map((span) => ({ ...span, origin: place }));
        });
        const row = { id: this.nextId++, at, choice, origins: numbers.origins, payload: await spansPayload(spans) };
        return { ...mark, at, row };
      }),
    );
    const fresh = await this.store.append(pushes);
    some.forEach(({ at, tied, choice }, i) => {
      if (!fresh[i]) return;
      const journalId = pushes[i]!.row.id;
      for (const { origin, spans } of tied)
        for (const span of spans) this.open.add({ ...span, from: origin, journalId }, at, choice);
    });
    this.live.touch('lines');
    return fresh;
  }

  /** Decides what is complete, and keeps what is due; `all` whatever there is, complete or not. */
  settle(all = false): Promise<void> {
    return this.oneByOne(async () => {
      if (this.lease.epoch === 0) return;
      try {
        await this.ready();
        const now = this.clock.now();
        for (const { traceId, spans, weight } of this.open.due(all ? Number.MAX_SAFE_INTEGER : now, MOST_OPEN)) {
          const kept = Math.max(weight, this.decided.get(traceId) ?? 0);
          this.decided.set(traceId, kept);
          if (kept === 0) continue;
          if (this.pending.length === 0) this.pendingSince = now;
          this.pending.push({ traceId, spans, weight: kept });
        }
        const spans = this.pending.reduce((sum, { spans: own }) => sum + own.length, 0);
        if (all || spans >= BLOCK_SPANS || now - this.pendingSince > BLOCK_AFTER) await this.pack();
        await this.store.dropJournalBefore(now - MINUTE);
      } catch (error) {
        if (error instanceof Refusal) return;
        this.log.failure('spansNotPacked', error, { why: databaseProblem(error) });
      }
    });
  }
  private async pack(): Promise<void> {
    const { generation } = this.memory;
    const traces = this.pending;
    const block =
      traces.length === 0
        ? null
        : await traceBlockOf(traces, (origins) =>
            Promise.all(origins.map((origin) => this.streams.streamIdOf(streamOf(origin), this.clock.now()))),
          );
    await this.memory.change(async () => {
      if (generation !== this.memory.generation) return;
      // everything before what still waits for the rest of its trace
      let settled = this.nextId - 1;
      for (const { spans } of this.open.all())
        for (const { journalId } of spans) settled = Math.min(settled, journalId - 1);
      if (block === null && settled <= this.settled) return;
      await this.store.keep(block, settled);
      this.settled = settled;
      this.pending = this.pending.slice(traces.length);
    });
  }
}
