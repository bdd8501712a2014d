import { Injectable } from '@nestjs/common';
import type { Origin } from '@zetopsis/core/origins';
import { summaryOf } from '@zetopsis/core/spans';
import type { EpochMs } from '@zetopsis/core/units';
import { questionNow } from '../../ground/platform/question.ts';
import type { TraceBlock } from './trace.store.ts';
import { TraceStore } from './trace.store.ts';
import { type KeptSpan, mayHoldTrace, OriginNumbers, spansIn, summariesIn } from './traceBlocks.ts';
import { TracesService } from './traces.service.ts';

/** What an object did in a trace. */
export interface FoundTrace {
  readonly traceId: string;
  /** Of the object's own step. */
  readonly at: EpochMs;
  readonly took: number;
  readonly operation: string;
  readonly failed: boolean;
  readonly origin: Origin;
  /** Of the whole trace. */
  readonly whole: { readonly took: number; readonly spans: number; readonly failed: boolean; readonly orphans: number };
  readonly weight: number;
}
/** A whole trace, as far as it is kept. */
export interface ReadTrace {
  readonly traceId: string;
  readonly spans: readonly Omit<KeptSpan, 'journalId'>[];
  /** For how many it stands. */
  readonly weight: number;
}
interface TracesAsked {
  readonly streams: readonly number[];
  readonly from: EpochMs;
  /** Not included. */
  readonly to: EpochMs;
  /** Whether the object had a part in it. */
  readonly isOf: (origin: Origin) => boolean;
}
const BLOCKS_AT_ONCE = 20;
/** Blocks that are looked through for one question; older ones are told to be left. */
const MOST_BLOCKS = 2000;

/** Reads traces where they are: open ones, those that wait to be packed, and blocks. */
@Injectable()
export class TraceReader {
  constructor(
    private readonly store: TraceStore,
    private readonly traces: TracesService,
  ) {}

  /** All that an object had a part in, as summaries, to `take`; whether all of the window was looked through. */
  async each(asked: TracesAsked, take: (found: FoundTrace) => void): Promise<boolean> {
    await this.traces.ready();
    const seen = new Set<string>();
    const offer = (found: FoundTrace) => {
      const key = `${found.traceId} ${found.origin.pod} ${found.at}`;
      if (seen.has(key) || found.at < asked.from || found.at >= asked.to) return;
      seen.add(key);
      take(found);
    };
    for (const { traceId, spans, weight } of this.inMemory()) {
      const numbers = new OriginNumbers();
      const numbered = spans.map(({ from, ...span }) => ({ ...span, origin: numbers.numberOf(from) }));
      offerParts(summaryOf(traceId, numbered, weight), numbers.origins, asked.isOf, offer);
    }
    let after: Pick<TraceBlock, 'to' | 'id'> | null = null;
    for (let looked = 0; ; ) {
      const blocks: TraceBlock[] = await this.store.blocks({ ...asked, after, most: BLOCKS_AT_ONCE });
      for (const block of blocks) {
        for (const summary of await summariesIn(block)) offerParts(summary, block.origins, asked.isOf, offer);
        questionNow()?.check(0);
      }
      looked += blocks.length;
      after = blocks.at(-1) ?? null;
      if (blocks.length < BLOCKS_AT_ONCE || after === null) return true;
      if (looked >= MOST_BLOCKS) return false;
    }
  }
  /**
   * Whole traces of a stretch of time, newest blocks first, until so many spans were offered; tells from when on all are there.
   * `take` may take its time: nothing is read meanwhile.
   */
  async whole(
    { from, to, spans: most }: { readonly from: EpochMs; readonly to: EpochMs; readonly spans: number },
    take: (trace: ReadTrace) => Promise<void>,
  ): Promise<{ readonly from: EpochMs }> {
    await this.traces.ready();
    const seen = new Set<string>();
    let spans = 0;
    const offer = async (trace: ReadTrace) => {
      const [first] = trace.spans;
      if (!first || first.at < from || first.at >= to || seen.has(trace.traceId)) return;
      seen.add(trace.traceId);
      spans += trace.spans.length;
      await take(trace);
    };
    for (const trace of this.inMemory()) await offer(trace);
    let after: Pick<TraceBlock, 'to' | 'id'> | null = null;
    for (let looked = 0; ; looked++) {
      const blocks: TraceBlock[] = await this.store.blocks({ streams: null, from, to, after, most: 1 });
      const [block] = blocks;
      if (!block) return { from };
      if (spans >= most || looked >= MOST_BLOCKS) return { from: Math.min(to, Math.max(from, block.to)) };
      const weights = new Map((await summariesIn(block)).map(({ traceId, weight }) => [traceId, weight]));
      for (const [traceId, own] of byTrace(await spansIn(block)))
        await offer({ traceId, spans: own, weight: weights.get(traceId) ?? 1 });
      questionNow()?.check(0);
      after = block;
    }
  }
  private *inMemory(): Generator<{ traceId: string; spans: readonly KeptSpan[]; weight: number }> {
    for (const { traceId, spans } of this.traces.open.all()) yield { traceId, spans, weight: 1 };
    yield* this.traces.pending;
  }

  /** Every span of a trace that is kept or open, by when it began; those of blocks that touch a stretch of time. */
  async spansOf(
    traceId: string,
    { from, to }: { readonly from: EpochMs; readonly to: EpochMs },
  ): Promise<{ readonly spans: Omit<KeptSpan, 'journalId'>[]; readonly open: boolean }> {
    await this.traces.ready();
    const found = new Map<string, Omit<KeptSpan, 'journalId'>>();
    const open = this.traces.open.get(traceId);
    for (const span of open?.spans ?? []) found.set(span.spanId, span);
    for (const trace of this.traces.pending)
      if (trace.traceId === traceId) for (const span of trace.spans) found.set(span.spanId, span);
    let after: Pick<TraceBlock, 'to' | 'id'> | null = null;
    for (;;) {
      const blocks: TraceBlock[] = await this.store.blocks({ streams: null, from, to, after, most: BLOCKS_AT_ONCE });
      for (const block of blocks)
        if (mayHoldTrace(block, traceId))
          for (const span of await spansIn(block)) if (span.traceId === traceId) found.set(span.spanId, span);
      questionNow()?.check(0);
      after = blocks.at(-1) ?? null;
      if (blocks.length < BLOCKS_AT_ONCE || after === null) break;
    }
    return { spans: [...found.values()].sort((a, b) => a.at - b.at), open: open !== undefined };
  }
}

function offerParts(
  { traceId, parts, took, spans, failed, orphans, weight }: ReturnType<typeof summaryOf>,
  origins: readonly Origin[],
  isOf: (origin: Origin) => boolean,
  offer: (found: FoundTrace) => void,
): void {
  for (const part of parts) {
    const origin = origins[part.origin]!; // each part is of one of them
    if (isOf(origin))
      offer({
        traceId,
        at: part.at,
        took: part.took,
        operation: part.operation,
        failed: part.failed,
        origin,
        whole: { took, spans, failed, orphans },
        weight,
      });
  }
}
function byTrace<S extends { readonly traceId: string }>(spans: readonly S[]): Map<string, S[]> {
  const traces = new Map<string, S[]>();
  for (const span of spans) {
    const own = traces.get(span.traceId);
    if (own) own.push(span);
    else traces.set(span.traceId, [span]);
  }
  return traces;
}
