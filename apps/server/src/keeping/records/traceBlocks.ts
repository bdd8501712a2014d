import { promisify } from 'node:util';
import { brotliCompress, brotliDecompress, constants, deflateRaw, inflateRaw } from 'node:zlib';
import { mayHold, wordFilter } from '@zetopsis/core/lines';
import type { Origin } from '@zetopsis/core/origins';
import {
  type BlockSpan,
  decodeSpans,
  encodeSpans,
  type Span,
  summaryOf,
  type TraceSummary,
} from '@zetopsis/core/spans';
import { Pieces } from '../../ground/platform/inPieces.ts';
import type { NewTraceBlock, TraceBlock } from './trace.store.ts';

const deflate = promisify(deflateRaw);
const inflate = promisify(inflateRaw);
const brotli = promisify(brotliCompress);
const unbrotli = promisify(brotliDecompress);
/** A block or row of the journal is ours; this only says where something is damaged. */
const LARGEST = 256 * 1024 * 1024;
const PACKED = { params: { [constants.BROTLI_PARAM_QUALITY]: 5, [constants.BROTLI_PARAM_LGWIN]: 22 } };

/** A span with what it comes from, and with which row of the journal it came. */
export interface KeptSpan extends Span {
  readonly from: Origin;
  readonly journalId: number;
}
export interface KeptTrace {
  readonly traceId: string;
  readonly spans: readonly KeptSpan[];
  readonly weight: number;
}

export const spansPayload = async (spans: readonly BlockSpan[]): Promise<Buffer> =>
  deflate(encodeSpans(spans), { level: 1 });
export const journalSpans = async (payload: Buffer): Promise<BlockSpan[]> =>
  decodeSpans(await inflate(payload, { maxOutputLength: LARGEST }));

/** Origins that some spans are of, each once. */
export class OriginNumbers {
  readonly origins: Origin[] = [];
  private readonly places = new Map<string, number>();
  numberOf(origin: Origin): number {
    const key = JSON.stringify(origin);
    const known = this.places.get(key);
    if (known !== undefined) return known;
    this.places.set(key, this.origins.length);
    return this.origins.push(origin) - 1;
  }
}

/** Whole traces as one block. `streamIds` numbers what the origins stand under. */
export async function traceBlockOf(
  traces: readonly KeptTrace[],
  streamIds: (origins: readonly Origin[]) => Promise<readonly number[]>,
): Promise<NewTraceBlock> {
  const pieces = new Pieces();
  const numbers = new OriginNumbers();
  const spans: BlockSpan[] = [];
  const summaries: TraceSummary[] = [];
  let lastId = 0;
  for (const { traceId, spans: own, weight } of traces) {
    const sorted = own
      .map(({ from, journalId, ...span }): BlockSpan => {
        lastId = Math.max(lastId, journalId);
        return { ...span, origin: numbers.numberOf(from) };
      })
      .sort((a, b) => a.at - b.at);
    summaries.push(summaryOf(traceId, sorted, weight));
    for (const span of sorted) spans.push(span);
    if (pieces.due) await pieces.pause();
  }
  return {
    from: Math.floor(summaries.reduce((first, { at }) => Math.min(first, at), Number.POSITIVE_INFINITY)),
    to: Math.ceil(summaries.reduce((last, { at, took }) => Math.max(last, at + took), 0)),
    lastId,
    traces: traces.length,
    spans: spans.length,
    streams: [...new Set(await streamIds(numbers.origins))],
    origins: numbers.origins,
    ids: Buffer.from(wordFilter(new Set(traces.map(({ traceId }) => traceId)))),
    summaries: await brotli(Buffer.from(JSON.stringify(summaries)), PACKED),
    body: await brotli(encodeSpans(spans), PACKED),
  };
}
export const summariesIn = async ({ summaries }: TraceBlock): Promise<TraceSummary[]> =>
  JSON.parse((await unbrotli(summaries, { maxOutputLength: LARGEST })).toString('utf8'));
export async function spansIn({ body, origins }: TraceBlock): Promise<Omit<KeptSpan, 'journalId'>[]> {
  const spans = decodeSpans(await unbrotli(body, { maxOutputLength: LARGEST }));
  return spans.map(({ origin, ...span }) => ({ ...span, from: origins[origin]! })); // each span is of one of them
}
export const mayHoldTrace = ({ ids }: TraceBlock, traceId: string): boolean => mayHold(ids, traceId);
