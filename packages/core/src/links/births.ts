import { type EpochMs, MINUTE } from '../units/index.ts';
import { type LinkEnd, pairKey } from './link.ts';

/** A pair that was told for the first time. */
export interface LinkBirth {
  readonly from: LinkEnd;
  readonly to: LinkEnd;
  readonly at: EpochMs;
}
/** A link is new where others were told so long before it. */
const OTHERS_BEFORE = 15 * MINUTE;

/** Of each pair the first time; what came with the first that were ever told was there before, as far as anybody knows. */
export function birthsOf(told: Iterable<LinkBirth>): LinkBirth[] {
  const first = new Map<string, LinkBirth>();
  let begun = Number.POSITIVE_INFINITY;
  for (const one of told) {
    begun = Math.min(begun, one.at);
    const key = pairKey(one);
    const known = first.get(key);
    if (!known || one.at < known.at) first.set(key, one);
  }
  return [...first.values()].filter(({ at }) => at >= begun + OTHERS_BEFORE).sort((a, b) => a.at - b.at);
}
