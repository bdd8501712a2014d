import { Injectable } from '@nestjs/common';
import type { Line } from '@zetopsis/core/lines';
import type { Origin } from '@zetopsis/core/origins';
import type { EpochMs } from '@zetopsis/core/units';
import { questionNow } from '../../ground/platform/question.ts';
import { type KnownStream, type LineBlock, LineStore } from './line.store.ts';
import { blockLines } from './lineBlocks.ts';
import { LinesService } from './lines.service.ts';

export interface FoundLine extends Line {
  readonly origin: Origin;
  readonly stream: number;
}
export interface LinesAsked {
  readonly streams: readonly number[];
  readonly from: EpochMs;
  /** Not included. */
  readonly to: EpochMs;
  /** What their origin has: a pod, a container. */
  readonly having: Partial<Origin>;
  readonly most: number;
}
const BLOCKS_AT_ONCE = 4;

/** Reads lines where they are: what is not packed yet from memory, everything else from blocks. */
@Injectable()
export class LineReader {
  constructor(
    private readonly store: LineStore,
    private readonly lines: LinesService,
  ) {}

  async streams(): Promise<KnownStream[]> {
    return this.store.streams();
  }
  /** The newest lines, newest first; `more` where there are others in the window. */
  async newest(asked: LinesAsked): Promise<{ readonly lines: FoundLine[]; readonly more: boolean }> {
    if (asked.streams.length === 0) return { lines: [], more: false };
    await this.lines.ready();
    // what is packed meanwhile counts as what was in memory: never twice, never not at all
    const before = this.before(asked.streams);
    const found = this.inMemory(asked);
    let after: Pick<LineBlock, 'to' | 'id'> | null = null;
    for (;;) {
      const blocks: LineBlock[] = await this.store.blocks({ ...asked, after, most: BLOCKS_AT_ONCE });
      for (const block of blocks)
        if (block.lastId < before.get(block.stream)!) found.push(...(await this.inBlock(block, asked))); // it was asked for
      found.sort(newestFirst);
      found.length = Math.min(found.length, asked.most + 1);
      questionNow()?.check(0);
      after = blocks.at(-1) ?? null;
      const oldest = found[asked.most];
      if (blocks.length < BLOCKS_AT_ONCE || after === null || (oldest && after.to < oldest.at)) break;
    }
    return { lines: await this.asTheyStand(found.slice(0, asked.most)), more: found.length > asked.most };
  }
  /** Of each stream the number of the journal before which everything is in blocks. */
  private before(streams: readonly number[]): Map<number, number> {
    return new Map(streams.map((stream) => [stream, this.lines.newest.of(stream)[0]?.id ?? this.lines.nextId]));
  }
  /** Wordings that turned out to be one have the number of that one. */
  private async asTheyStand(lines: readonly FoundLine[]): Promise<FoundLine[]> {
    return Promise.all(
      lines.map(async (line) => ({
        ...line,
        wording: (await this.lines.wordingsOf(line.stream)).standingOf(line.wording),
      })),
    );
  }
  async wordingText(stream: number, number: number): Promise<string | null> {
    return (await this.lines.wordingsOf(stream)).textOf(number);
  }
  /** How many lines came since a moment, and how many of them bear a trace id. */
  async census({
    streams,
    since,
    having,
  }: Omit<LinesAsked, 'from' | 'to' | 'most'> & { readonly since: EpochMs }): Promise<{
    lines: number;
    traced: number;
  }> {
    await this.lines.ready();
    const before = this.before(streams);
    let lines = 0;
    let traced = 0;
    for (const stream of streams)
      for (const { origins, lines: own } of this.lines.newest.of(stream)) {
        const fits = origins.map((origin) => has(origin, having));
        for (const { at, traceId, origin } of own) {
          if (at < since || !fits[origin]) continue;
          lines++;
          if (traceId !== '') traced++;
        }
      }
    const packed = await this.store.census(
      [...before].map(([stream, own]) => ({ stream, before: own })),
      since,
      having,
    );
    return { lines: lines + packed.lines, traced: traced + packed.traced };
  }

  private inMemory({ streams, from, to, having, most }: LinesAsked): FoundLine[] {
    const found: FoundLine[] = [];
    for (const stream of streams)
      for (const { origins, lines } of this.lines.newest.of(stream)) {
        const fits = origins.map((origin) => has(origin, having));
        for (const line of lines)
          if (fits[line.origin] && line.at >= from && line.at < to)
            found.push({ ...line, origin: origins[line.origin]!, stream }); // each line is of one of them
      }
    return found.sort(newestFirst).slice(0, most + 1);
  }
  private async inBlock(block: LineBlock, { from, to, having }: LinesAsked): Promise<FoundLine[]> {
    const fits = block.origins.map((origin) => has(origin, having));
    return (await blockLines(block.body)).flatMap((line) =>
      fits[line.origin] && line.at >= from && line.at < to
        ? [{ ...line, origin: block.origins[line.origin]!, stream: block.stream }]
        : [],
    );
  }
}
const newestFirst = (a: FoundLine, b: FoundLine): number => b.at - a.at;
const has = (origin: Origin, having: Partial<Origin>): boolean =>
  (Object.keys(having) as (keyof Origin)[]).every((name) => origin[name] === having[name]);
