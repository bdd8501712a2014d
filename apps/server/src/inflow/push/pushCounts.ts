import { Injectable } from '@nestjs/common';
import { MASKED_KINDS, type MaskedCounts, nothingMasked } from '@zetopsis/core/lines';
import type { Untied } from '@zetopsis/core/origins';
import { counter, OwnFigures } from '../../ground/platform/ownFigures.ts';

/** Reasons that are told apart: some have the sender's own words in them. */
const MOST_REASONS = 10;

class Counts {
  pushes = 0;
  /** Pushes that were taken before. */
  again = 0;
  refused = 0;
  lines = 0;
  spans = 0;
  readonly masked = nothingMasked();
  readonly untied = new Map<Untied, number>();
  /** By why they were refused; the first few reasons. */
  readonly refusals = new Map<string, number>();
}

/** What became of what was pushed with each key, since the start. */
@Injectable()
export class PushCounts {
  private readonly counts = new Map<string, Counts>();
  constructor(figures: OwnFigures) {
    const of = (field: 'pushes' | 'refused' | 'lines' | 'spans') =>
      [...this.counts].map(([key, own]) => ({ labels: { key }, value: own[field] }));
    figures.onAsked(() => [
      counter({ name: 'pushes', help: 'Requests that were pushed, by key.', samples: of('pushes') }),
      counter({ name: 'pushed_lines', help: 'Log lines that were taken.', samples: of('lines') }),
      counter({ name: 'pushed_spans', help: 'Spans that were taken.', samples: of('spans') }),
      counter({ name: 'push_refused', help: 'Points, lines and spans that were refused.', samples: of('refused') }),
    ]);
  }

  private of(key: string): Counts {
    const own = this.counts.get(key) ?? new Counts();
    this.counts.set(key, own);
    return own;
  }
  answer(key: string) {
    const { untied, refusals, ...counts } = this.of(key);
    return {
      ...counts,
      untied: [...untied].map(([why, count]) => ({ why, count })),
      refusals: [...refusals].map(([why, count]) => ({ why, count })),
    };
  }

  /** A push was looked at, and so much of it was not taken. */
  pushed(key: string, refused: number, problem: string | null): void {
    const counts = this.of(key);
    counts.pushes++;
    counts.refused += refused;
    if (refused === 0) return;
    const why = problem ?? 'no reason known';
    if (counts.refusals.has(why) || counts.refusals.size < MOST_REASONS)
      counts.refusals.set(why, (counts.refusals.get(why) ?? 0) + refused);
  }
  /** What was pushed had been taken before. */
  again(key: string): void {
    this.of(key).again++;
  }
  /** Lines or spans that were taken, and what was masked in them. */
  taken(key: string, what: 'lines' | 'spans', count: number, masked: MaskedCounts): void {
    const counts = this.of(key);
    counts[what] += count;
    for (const kind of MASKED_KINDS) counts.masked[kind] += masked[kind];
  }
  /** Of them, those that stand at no pod and no node; null: they do. */
  untied(key: string, why: Untied | null, count: number): void {
    const { untied } = this.of(key);
    if (why !== null) untied.set(why, (untied.get(why) ?? 0) + count);
  }
}
