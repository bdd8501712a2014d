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
 * it, unless somebody moved that one's pages to another. Of at least one.
 */
export function holderOf(finders: readonly Finder[]): Finder {
  const inOrder = [...finders].sort((a, b) => a.since - b.since || (a.key < b.key ? -1 : 1));
  // those who take over from each other in a ring are no better off for it
  return inOrder.find(({ key }) => !finders.some(({ over }) => over.includes(key))) ?? inOrder[0]!; // at least one
}
