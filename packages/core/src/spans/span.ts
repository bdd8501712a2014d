import type { Field } from '../lines/index.ts';
import type { EpochMs } from '../units/index.ts';

/** What part a span plays, by the protocol. */
export const SPAN_KINDS = ['unspecified', 'internal', 'server', 'client', 'producer', 'consumer'] as const;
export type SpanKind = (typeof SPAN_KINDS)[number];

export interface SpanEvent {
  readonly at: EpochMs;
  readonly name: string;
  readonly fields: readonly Field[];
}
/** One step of a trace. */
export interface Span {
  /** 32 and 16 hex digits; the parent's is empty for the root. */
  readonly traceId: string;
  readonly spanId: string;
  readonly parentId: string;
  readonly name: string;
  readonly kind: SpanKind;
  /** ms, with fractions down to a microsecond. */
  readonly at: EpochMs;
  /** ms. */
  readonly took: number;
  readonly failed: boolean;
  /** What its program says of the failure. */
  readonly message: string;
  readonly fields: readonly Field[];
  readonly events: readonly SpanEvent[];
  /** Traces that it comes from, beside its own. */
  readonly links: readonly string[];
  /** For how many it stands, where its sender sends only some; left out: for itself. */
  readonly stands?: number;
}
/** A span with the number of what it comes from. */
export interface BlockSpan extends Span {
  readonly origin: number;
}

/** What bounds a span: it is somebody else's program. */
export const SPAN_LIMITS = { name: 256, message: 1024, fields: 64, events: 32, links: 16 } as const;

/** Spans through which requests come in: from a caller, or from a queue. */
export const isEntry = ({ kind }: Pick<Span, 'kind'>): boolean => kind === 'server' || kind === 'consumer';
