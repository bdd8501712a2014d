import type { Window } from '@zetopsis/answers/usage';
import { type DurationMs, type EpochMs, MINUTE } from '@zetopsis/core/units';
import { LRUCache } from 'lru-cache';
import { SharedWork } from '../../ground/platform/question.ts';

/** What takes this long to work out is not waited for when there is an older one: that is answered, and worked out anew. */
export const SLOW = 400;
/** An older one is answered up to this age, or so many times as old as it takes to be worked out. */
const OLDEST = MINUTE;
const OLDEST_TIMES = 25;
const AFTER_ANSWER = 250; // ms
/** A window up to now is as long as its question was under way longer: nearly the same length is the same window. */
const ALIKE = 0.01;

export interface Answered<T> {
  readonly value: T;
  readonly at: EpochMs;
  readonly took: DurationMs;
}
/** One window of one cluster: what was worked out of it last, and what is being worked out. */
export interface KeptWindow<T> {
  readonly connectionId: string;
  readonly of: string;
  readonly length: DurationMs;
  readonly live: boolean;
  done: Answered<T> | null;
  working: SharedWork<T> | null;
  /** It is about to be worked out. */
  soon: boolean;
  askedAt: EpochMs;
}

/** Answers about windows of clusters: worked out once for all who ask at once, and not waited for where that takes long. */
export class KeptWindows<T> {
  /** Those asked for last stay. */
  private readonly kept: LRUCache<string, KeptWindow<T>>;
  constructor(
    private readonly clock: { now(): EpochMs },
    max: number,
  ) {
    this.kept = new LRUCache({ max });
  }
  values(): IterableIterator<KeptWindow<T>> {
    return this.kept.values();
  }

  /** `holds`: whether what was answered last is still answered, however fast it is worked out. */
  answer({
    connectionId,
    of = '',
    window,
    holds,
    work,
  }: {
    readonly connectionId: string;
    /** What is asked of the window. */
    readonly of?: string;
    readonly window: Window;
    readonly holds: (done: Answered<T>, age: DurationMs) => boolean;
    readonly work: () => Promise<T>;
  }): Promise<T> {
    const now = this.clock.now();
    const kept = this.keptOf(connectionId, of, window);
    kept.askedAt = now;
    if (kept.done === null) return this.begin(kept, work).wait();
    const { value, at, took } = kept.done;
    if (holds(kept.done, now - at)) return Promise.resolve(value);
    if (took < SLOW || now - at > Math.max(OLDEST, OLDEST_TIMES * took)) return this.begin(kept, work).wait();
    this.beginSoon(kept, work);
    return Promise.resolve(value);
  }
  /** What follows from the one that is answered is worked out first: both at once would take twice as long. */
  private beginSoon(kept: KeptWindow<T>, work: () => Promise<T>): void {
    if (kept.working !== null || kept.soon) return;
    kept.soon = true;
    setTimeout(() => {
      kept.soon = false;
      this.begin(kept, work).goOn();
    }, AFTER_ANSWER).unref();
  }
  /** Work that goes on already is not begun a second time. */
  begin(kept: KeptWindow<T>, work: () => Promise<T>): SharedWork<T> {
    if (kept.working !== null && !kept.working.abandoned) return kept.working;
    const at = this.clock.now();
    const begun = new SharedWork(`${kept.of || 'usage'} of ${kept.connectionId}`, async () => {
      const began = performance.now();
      try {
        const value = await work();
        kept.done = { value, at, took: performance.now() - began };
        return value;
      } finally {
        if (kept.working === begun) kept.working = null;
      }
    });
    kept.working = begun;
    return begun;
  }
  private keptOf(connectionId: string, of: string, { from, to, live }: Window): KeptWindow<T> {
    const length = to - from;
    const key = live
      ? (this.alike(connectionId, of, length) ?? `${connectionId} ${of} live ${Math.round(length / 1000)}`)
      : `${connectionId} ${of} ${from} ${to}`;
    const kept = this.kept.get(key) ?? {
      connectionId,
      of,
      length,
      live,
      done: null,
      working: null,
      soon: false,
      askedAt: 0,
    };
    this.kept.set(key, kept);
    return kept;
  }
  private alike(connectionId: string, of: string, length: DurationMs): string | undefined {
    for (const [key, kept] of this.kept.entries())
      if (
        kept.live &&
        kept.connectionId === connectionId &&
        kept.of === of &&
        Math.abs(kept.length - length) <= length * ALIKE
      )
        return key;
    return undefined;
  }
}
