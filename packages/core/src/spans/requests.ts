import type { EpochMs } from '../units/index.ts';
import { isEntry, type Span } from './span.ts';
import { BROWSER, COLD_START } from './wire-names.ts';

/** Upper bounds of buckets, s: the boundaries that the semantic conventions advise for the length of requests. */
export const REQUEST_BOUNDS = [0.005, 0.01, 0.025, 0.05, 0.075, 0.1, 0.25, 0.5, 0.75, 1, 2.5, 5, 7.5, 10] as const;
/** Of one sender; what comes after is one. */
export const MOST_OPERATIONS = 50;
export const OTHER_OPERATIONS = 'other operations';

/** Series that they are counted in, and what their labels say. */
export const REQUEST_SERIES = {
  requests: 'span_requests_total',
  buckets: 'span_duration_seconds_bucket',
  operation: 'operation',
  outcome: 'outcome',
  failed: 'failed',
  start: 'start',
  cold: 'cold',
  from: 'from',
  browser: 'browser',
} as const;

export interface OperationRequests {
  readonly operation: string;
  /** Whether it was the first that its program answered after it came to be. */
  readonly cold: boolean;
  requests: number;
  failures: number;
  /** s. */
  seconds: number;
  /** One more than bounds; not cumulative. */
  readonly buckets: number[];
  /** The newest that fell in each bucket. */
  readonly examples: ({ readonly traceId: string; readonly seconds: number; readonly at: EpochMs } | null)[];
}

/** Requests that came in at one sender, by operation: counted once, when their span comes. */
export class RequestCounts {
  private readonly operations = new Map<string, OperationRequests>();

  /** Nothing of spans through which nothing comes in. */
  count(span: Span): void {
    if (!isEntry(span)) return;
    const cold = span.fields.some(([name, value]) => name === COLD_START && value === 'true');
    const wanted = `${cold} ${span.name}`;
    const key =
      this.operations.has(wanted) || this.operations.size < MOST_OPERATIONS ? wanted : `false ${OTHER_OPERATIONS}`;
    const own =
      this.operations.get(key) ?? begun(key === wanted ? span.name : OTHER_OPERATIONS, key === wanted && cold);
    this.operations.set(key, own);
    const seconds = span.took / 1000;
    const { stands = 1 } = span;
    own.requests += stands;
    if (span.failed) own.failures += stands;
    own.seconds += seconds * stands;
    const bucket = REQUEST_BOUNDS.findIndex((bound) => seconds <= bound);
    const at = bucket < 0 ? REQUEST_BOUNDS.length : bucket;
    own.buckets[at]! += stands; // it has one for each
    own.examples[at] = { traceId: span.traceId, seconds, at: span.at };
  }
  all(): readonly OperationRequests[] {
    return [...this.operations.values()];
  }
}
const begun = (operation: string, cold: boolean): OperationRequests => ({
  operation,
  cold,
  requests: 0,
  failures: 0,
  seconds: 0,
  buckets: new Array<number>(REQUEST_BOUNDS.length + 1).fill(0),
  examples: new Array<null>(REQUEST_BOUNDS.length + 1).fill(null),
});
/** Whether a browser sent it: those are counted apart from programs. */
export const isBrowsers = (attributes: ReadonlyMap<string, string>): boolean => attributes.has(BROWSER);
