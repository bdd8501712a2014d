import type { EpochMs } from '../units/index.ts';
import { lengthOf } from './openTraces.ts';
import { type BlockSpan, isEntry } from './span.ts';

/** What one origin did in a trace: the step through which the request came in. */
export interface TracePart {
  readonly origin: number;
  readonly operation: string;
  readonly at: EpochMs;
  readonly took: number;
  readonly failed: boolean;
}
/** What lists tell of a trace without reading its spans. */
export interface TraceSummary {
  readonly traceId: string;
  readonly at: EpochMs;
  readonly took: number;
  readonly failed: boolean;
  readonly spans: number;
  /** For how many it stands. */
  readonly weight: number;
  readonly parts: readonly TracePart[];
  /** Spans whose parent never came. */
  readonly orphans: number;
}

export function summaryOf(traceId: string, spans: readonly BlockSpan[], weight: number): TraceSummary {
  const known = new Set(spans.map(({ spanId }) => spanId));
  const byOrigin = new Map<number, BlockSpan>();
  for (const span of spans) {
    const before = byOrigin.get(span.origin);
    // what comes in tells more than what goes out, and the first of it most
    const better =
      !before || (isEntry(span) && !isEntry(before)) || (isEntry(span) === isEntry(before) && span.at < before.at);
    if (better) byOrigin.set(span.origin, span);
  }
  return {
    traceId,
    at: spans.reduce((first, { at }) => Math.min(first, at), Number.POSITIVE_INFINITY),
    took: lengthOf(spans),
    failed: spans.some(({ failed }) => failed),
    spans: spans.length,
    weight,
    parts: [...byOrigin.values()].map(({ origin, name, at, took }) => ({
      origin,
      operation: name,
      at,
      took,
      failed: spans.some((own) => own.origin === origin && own.failed),
    })),
    orphans: spans.filter(({ parentId }) => parentId !== '' && !known.has(parentId)).length,
  };
}
