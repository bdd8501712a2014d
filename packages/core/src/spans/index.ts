export { decodeSpans, encodeSpans } from './block.ts';
export { shiftsOf } from './drawn.ts';
export { maskedSpan } from './mask.ts';
export {
  type DecidedTrace,
  EVERYTHING_KEPT,
  lengthOf,
  OpenTraces,
  type SamplingChoice,
  weightOf,
} from './openTraces.ts';
export {
  isBrowsers,
  MOST_OPERATIONS,
  type OperationRequests,
  OTHER_OPERATIONS,
  REQUEST_BOUNDS,
  REQUEST_SERIES,
  RequestCounts,
} from './requests.ts';
export { type BlockSpan, isEntry, SPAN_KINDS, SPAN_LIMITS, type Span, type SpanEvent, type SpanKind } from './span.ts';
export { summaryOf, type TracePart, type TraceSummary } from './summary.ts';
