import type { EpochMs } from '../units/index.ts';
import type { Span } from './span.ts';

/** A trace is complete when nothing came for so long, and at the latest so long after its first span came. */
const QUIET = 60_000;
const LONGEST = 5 * 60_000;

/** What a key wants to be kept: all that failed or was slow, and one in so many of the rest. */
export interface SamplingChoice {
  /** 1: everything. */
  readonly oneIn: number;
  /** ms; a trace that took at least so long is kept. */
  readonly slow: number;
}
export const EVERYTHING_KEPT: SamplingChoice = { oneIn: 1, slow: 0 };

export interface OpenTrace<S extends Span> {
  readonly traceId: string;
  readonly spans: S[];
  readonly firstCame: EpochMs;
  lastCame: EpochMs;
  /** The widest of the choices under which its spans came. */
  choice: SamplingChoice;
}
export interface DecidedTrace<S extends Span> {
  readonly traceId: string;
  readonly spans: readonly S[];
  /** For how many it stands; 0: it is not kept. */
  readonly weight: number;
}

/** Spans that wait for the others of their trace. Every one is once in it, however often it was sent. */
export class OpenTraces<S extends Span> {
  private readonly traces = new Map<string, OpenTrace<S>>();
  spans = 0;

  /** False where it is there already. */
  add(span: S, came: EpochMs, choice: SamplingChoice): boolean {
    const open = this.traces.get(span.traceId);
    if (!open) {
      this.traces.set(span.traceId, {
        traceId: span.traceId,
        spans: [span],
        firstCame: came,
        lastCame: came,
        choice,
      });
      this.spans++;
      return true;
    }
    if (open.spans.some(({ spanId }) => spanId === span.spanId)) return false;
    open.spans.push(span);
    open.lastCame = Math.max(open.lastCame, came);
    open.choice = {
      oneIn: Math.min(open.choice.oneIn, choice.oneIn),
      slow: Math.min(open.choice.slow, choice.slow),
    };
    this.spans++;
    return true;
  }
  get(traceId: string): OpenTrace<S> | undefined {
    return this.traces.get(traceId);
  }
  all(): IterableIterator<OpenTrace<S>> {
    return this.traces.values();
  }
  /** Takes out what is complete, decided. `most` spans may stay: where there are more, those that came first are decided now. */
  due(now: EpochMs, most: number): DecidedTrace<S>[] {
    const decided: DecidedTrace<S>[] = [];
    for (const trace of this.traces.values()) {
      const complete = now - trace.lastCame >= QUIET || now - trace.firstCame >= LONGEST;
      // they stand in the order in which they began
      if (!complete && this.spans <= most) continue;
      this.traces.delete(trace.traceId);
      this.spans -= trace.spans.length;
      decided.push({ traceId: trace.traceId, spans: trace.spans, weight: weightOf(trace) });
    }
    return decided;
  }
  clear(): void {
    this.traces.clear();
    this.spans = 0;
  }
}

/** The same for a trace each time, in whichever process it is decided. */
export function weightOf({
  traceId,
  spans,
  choice,
}: {
  readonly traceId: string;
  readonly spans: readonly Span[];
  readonly choice: SamplingChoice;
}): number {
  if (choice.oneIn <= 1) return 1;
  const took = lengthOf(spans);
  if (spans.some(({ failed }) => failed) || took >= choice.slow) return 1;
  return Number.parseInt(traceId.slice(-8), 16) % choice.oneIn === 0 ? choice.oneIn : 0;
}
/** From the first beginning to the last end, ms. */
export function lengthOf(spans: readonly Pick<Span, 'at' | 'took'>[]): number {
  let from = Number.POSITIVE_INFINITY;
  let to = Number.NEGATIVE_INFINITY;
  for (const { at, took } of spans) {
    from = Math.min(from, at);
    to = Math.max(to, at + took);
  }
  return spans.length === 0 ? 0 : to - from;
}
