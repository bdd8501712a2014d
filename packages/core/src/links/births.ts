import { type EpochMs, MINUTE } from '../units/index.ts';
import { type LinkEnd, pairKey } from './link.ts';

/** A pair that was told for the first time. */
export interface LinkBirth {
  readonly from: LinkEnd;
  readonly to: LinkEnd;
  readonly at: EpochMs;
}
/** A series of a pair: when it was told for the first time; null: it is of a past that was brought in. */
export type ToldPair = Omit<LinkBirth, 'at'> & { readonly at: EpochMs | null };
/** A link is new where others were told so long before it. */
const OTHERS_BEFORE = 15 * MINUTE;

/** Of each pair the first time; what came with the first that were ever told was there before, as far as anybody knows. */
export function birthsOf(told: Iterable<ToldPair>): LinkBirth[] {
  const first = new Map<string, LinkBirth>();
  const old = new Set<string>();
  let begun = Number.POSITIVE_INFINITY;
  for (const { from, to, at } of told) {
    const key = pairKey({ from, to });
    if (at === null) {
      old.add(key);
      continue;
    }
    begun = Math.min(begun, at);
    const known = first.get(key);
    if (!known || at < known.at) first.set(key, { from, to, at });
  }
  return [...first]
    .flatMap(([key, one]) => (one.at >= begun + OTHERS_BEFORE && !old.has(key) ? [one] : []))
    .sort((a, b) => a.at - b.at);
}
