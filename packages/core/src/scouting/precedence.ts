import type { EpochMs } from '../units/index.ts';

/** A scout that finds a page which others find, too. */
export interface Finder {
  readonly key: string;
  /** Since when it looks. */
  readonly since: EpochMs;
  /** Scouts whose pages somebody moved to it. */
  readonly over: readonly string[];
}

/**
 * Whose a page is that several scouts find: what is read already stays with its scout, so the one that came first reads
 * it, unless somebody moved that one's pages to another of them. Of at least one.
 */
export function holderOf(finders: readonly Finder[]): Finder {
  const inOrder = [...finders].sort((a, b) => a.since - b.since || (a.key < b.key ? -1 : 1));
  const first = inOrder[0]!; // at least one
  const seen = new Set([first]);
  for (let holder = first; ; ) {
    const taker = inOrder.find(({ over }) => over.includes(holder.key));
    if (taker === undefined) return holder;
    // those who take over from each other in a ring are no better off for it
    if (seen.has(taker)) return first;
    seen.add(taker);
    holder = taker;
  }
}
