import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { type BlockLine, type PartedLine, Wordings, wordsOf } from '@zetopsis/core/lines';
import { type Origin, streamOf } from '@zetopsis/core/origins';
import { type EpochMs, MINUTE, SECOND } from '@zetopsis/core/units';
import { LRUCache } from 'lru-cache';
import pLimit from 'p-limit';
import { LiveService } from '../../ground/live/live.service.ts';
import { databaseProblem, isAway } from '../../ground/platform/databaseProblem.ts';
import { Pieces } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { gauge, OwnFigures } from '../../ground/platform/ownFigures.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LeaseService } from '../store/lease.service.ts';
import { CommitLane } from './commitLane.ts';
import { JournalMemory } from './journalMemory.ts';
import { type JournalledLines, LineStore } from './line.store.ts';
import { blocksOf, journalParts, journalPayload } from './lineBlocks.ts';
import { lettersOf, NewestLines, type Together } from './newestLines.ts';
import type { PushMark } from './recordStore.ts';

/** What one sender pushed, tied to what it comes from. */
export interface TiedLines {
  readonly origin: Origin;
  readonly lines: readonly PartedLine[];
}
/** Lines of one stream, with what numbered their wordings. */
interface Part {
  readonly stream: number;
  readonly wordings: Wordings;
  readonly origins: Origin[];
  lines: BlockLine[];
}
interface Waiting {
  readonly mark: PushMark;
  readonly at: EpochMs;
  readonly parts: Part[];
  readonly bytes: number;
}

/** A push that is sent again within this time counts once. */
const SEEN_FOR = 10 * MINUTE;
/** What may wait for the journal; whoever comes then is asked to come again. */
const MOST_WAITING = 32 * 1024 * 1024;
const AT_ONCE = 8 * 1024 * 1024;
/** A stream is packed when so much of it is there, or so long has passed; sooner where all of them take too much. */
const BLOCK_LINES = 4000;
const BLOCK_BYTES = 1024 * 1024;
const BLOCK_AFTER = 10 * MINUTE;
const MOST_HELD = 48 * 1024 * 1024;
const LOADED_AT_ONCE = 200;
/** Wordings that are held in memory, of all streams; others are read when a line of theirs comes. */
const MOST_WORDINGS_HELD = 200_000;
const FEW_WORDINGS = 20;

/** Keeps log lines: journalled when they are accepted, in memory until they are packed in blocks. */
@Injectable()
export class LinesService implements OnApplicationBootstrap, OnApplicationShutdown {
  readonly newest = new NewestLines();
  private readonly wordings = new LRUCache<number, Promise<Wordings>>({
    maxSize: MOST_WORDINGS_HELD,
    sizeCalculation: () => FEW_WORDINGS,
  });
  private readonly lane = new CommitLane<Waiting>(
    (some) => this.memory.change(() => this.write(some)),
    // memory is bounded: nobody is told that something is taken before there is room again
    async () => {
      if (this.newest.bytes > MOST_HELD) await this.pack();
    },
    { atOnce: AT_ONCE, waiting: MOST_WAITING },
  );
  /** The number that the journal's next row gets. */
  nextId = 0;
  private readonly memory = new JournalMemory(() => this.load());
  private readonly packing = new Repeated(() => this.pack(), 5 * SECOND);
  private readonly oneByOne = pLimit(1);

  constructor(
    private readonly store: LineStore,
    private readonly lease: LeaseService,
    private readonly live: LiveService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
    figures: OwnFigures,
  ) {
    figures.onAsked(() => [
      gauge({
        name: 'lines_held',
        unit: 'bytes',
        help: 'Log lines in memory that are in no block yet.',
        samples: this.newest.bytes,
      }),
    ]);
    lease.onChange(() => {
      this.memory.forget();
      this.wordings.clear();
    });
  }
  onApplicationBootstrap(): void {
    this.packing.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.packing.stop();
  }

  /** Null where it has none yet. */
  async wordingsOf(stream: number): Promise<Wordings> {
    const known = this.wordings.get(stream);
    if (known) return known;
    const loading = this.store.wordings(stream).then((kept) => Wordings.of(kept));
    this.wordings.set(stream, loading);
    loading.catch(() => this.wordings.delete(stream));
    return loading;
  }
  ready(): Promise<void> {
    return this.memory.ready();
  }
  private async load(): Promise<void> {
    this.newest.clear();
    const last = await this.store.lastId();
    const packed = await this.store.packedUpTo();
    for (let after = 0; ; ) {
      const rows = await this.store.unpacked(after, LOADED_AT_ONCE);
      for (const { id, at, streams, origins, payload } of rows) {
        const parts = await journalParts(payload);
        streams.forEach((stream, i) => {
          if (id > (packed.get(stream) ?? 0)) this.newest.add(stream, togetherOf(id, at, origins[i]!, parts[i]!)); // each stream has both
        });
      }
      if (rows.length < LOADED_AT_ONCE) break;
      after = rows.at(-1)!.id;
    }
    this.nextId = last + 1;
  }

  /** Whether a push was taken already; asked before anything of it is looked at. */
  async wasTaken(mark: PushMark): Promise<boolean> {
    try {
      return await this.store.wasTaken(mark);
    } catch (error) {
      throw couldNotBeTaken(error, (own) => this.log.failure('pushesNotKnown', own));
    }
  }
  /**
   * Answers once it is durable, and whether it is new: false of what was pushed before. A refusal where it cannot be taken now.
   */
  async take(mark: PushMark, all: readonly TiedLines[]): Promise<boolean> {
    if (this.lease.epoch === 0)
      throw new Refusal('unavailable', 'Another process of Zetopsis writes now. Send it there.', [], 5);
    if (this.lane.isFull) throw new Refusal('tooMany', 'More comes in than can be stored now. Send it again.', [], 2);
    try {
      const parts = await this.partsOf(all);
      const bytes = all.reduce(
        (sum, { lines }) => sum + lines.reduce((own, line) => own + lettersOf(line) + 100, 0),
        0,
      );
      return await this.lane.push({ mark, at: this.clock.now(), parts, bytes });
    } catch (error) {
      throw couldNotBeTaken(error, (own) => this.log.failure('linesNotKept', own));
    }
  }
  private async partsOf(all: readonly TiedLines[]): Promise<Waiting['parts']> {
    const parts = new Map<number, Part>();
    const pieces = new Pieces();
    for (const { origin, lines } of all) {
      const stream = await this.store.streamIdOf(streamOf(origin), this.clock.now());
      const wordings = await this.wordingsOf(stream);
      const part = parts.get(stream) ?? { stream, wordings, origins: [], lines: [] };
      parts.set(stream, part);
      const before = wordings.size;
      const place = part.origins.push(origin) - 1;
      for (const line of lines) {
        part.lines.push({ ...line, wording: wordingOf(wordings, line), origin: place });
        if (pieces.due) await pieces.pause();
      }
      const held = this.wordings.peek(stream);
      if (held && wordings.size > before) this.wordings.set(stream, held, { size: FEW_WORDINGS + wordings.size });
    }
    return [...parts.values()];
  }

  // ---- journal ----------------------------------------------------------------------------------------------------

  private async write(some: readonly Waiting[]): Promise<readonly boolean[]> {
    for (const { parts } of some)
      for (const part of parts) {
        const wordings = await this.wordingsOf(part.stream);
        // those that numbered them are not the ones that are kept any more
        if (wordings !== part.wordings)
          part.lines = part.lines.map((line) => ({ ...line, wording: wordingOf(wordings, line) }));
      }
    const pushes = await Promise.all(
      some.map(async ({ mark, at, parts }) => {
        const row: JournalledLines = {
          id: this.nextId++,
          at,
          streams: parts.map(({ stream }) => stream),
          origins: parts.map(({ origins }) => origins),
          payload: await journalPayload(parts.map(({ lines }) => lines)),
        };
        return { ...mark, at, row };
      }),
    );
    const streams = new Set(some.flatMap(({ parts }) => parts.map(({ stream }) => stream)));
    const wordings = await Promise.all(
      [...streams].map(async (stream) => {
        const of = await this.wordingsOf(stream);
        return { stream, of, wordings: of.toKeep() };
      }),
    );
    const fresh = await this.store.append(pushes, wordings);
    for (const { of, wordings: kept } of wordings) of.kept(kept);
    some.forEach(({ at, parts }, i) => {
      if (!fresh[i]) return;
      for (const { stream, origins, lines } of parts)
        this.newest.add(stream, togetherOf(pushes[i]!.row.id, at, origins, lines)); // one row for each
    });
    this.live.touch('lines');
    return fresh;
  }

  // ---- blocks -----------------------------------------------------------------------------------------------------

  /** Packs what is due; `all` whatever there is. */
  pack(all = false): Promise<void> {
    return this.oneByOne(async () => {
      if (this.lease.epoch === 0) return;
      try {
        await this.ready();
        const now = this.clock.now();
        for (const { stream, bytes, lines, since } of this.newest.sizes())
          if (
            all ||
            this.newest.bytes > MOST_HELD ||
            bytes >= BLOCK_BYTES ||
            lines >= BLOCK_LINES ||
            since < now - BLOCK_AFTER
          )
            await this.packStream(stream);
        await this.store.dropJournalBefore(Math.min(this.newest.oldestAt ?? now, now - MINUTE));
        await this.store.forgetSeen(now - SEEN_FOR);
      } catch (error) {
        if (error instanceof Refusal) return;
        this.log.failure('linesNotPacked', error, { why: databaseProblem(error) });
      }
    });
  }
  private async packStream(stream: number): Promise<void> {
    for (;;) {
      const some: Together[] = [];
      let lines = 0;
      let bytes = 0;
      for (const together of this.newest.of(stream)) {
        if (some.length > 0 && (lines + together.lines.length > 2 * BLOCK_LINES || bytes > BLOCK_BYTES)) break;
        some.push(together);
        lines += together.lines.length;
        bytes += together.bytes;
      }
      const last = some.at(-1);
      if (!last) return;
      const { generation } = this.memory;
      const blocks = await blocksOf(some);
      const done = await this.memory.change(async () => {
        if (generation !== this.memory.generation) return false;
        await this.store.keepBlocks(stream, last.id, blocks);
        this.newest.packed(stream, some.length);
        return true;
      });
      if (!done) return;
    }
  }
}

/** What whoever pushes is told: to send it again in a while, where nothing is wrong with it. */
export function couldNotBeTaken(error: unknown, unforeseen: (error: unknown) => void): Refusal {
  if (error instanceof Refusal && error.code !== 'conflict') return error;
  if (!isAway(error) && !(error instanceof Refusal)) unforeseen(error);
  return new Refusal('unavailable', 'It could not be stored now. Send it again in a while.', [], 5);
}
/** Of a line without a message it is that of the names of its fields. */
const wordingOf = (wordings: Wordings, { text, fields }: PartedLine): number =>
  wordings.numberOf(wordsOf(text === '' ? fields.map(([name]) => name).join(' ') : text));
const togetherOf = (id: number, at: EpochMs, origins: readonly Origin[], lines: readonly BlockLine[]): Together => ({
  id,
  at,
  origins,
  lines,
  bytes: lines.reduce((sum, line) => sum + lettersOf(line) + 100, 0),
});
