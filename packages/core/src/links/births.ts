import { type EpochMs, MINUTE } from '../units/index.ts';
import { type LinkEnd, pairKey } from './link.ts';

/** A pair that was told for the first time. */
export interface LinkBirth {
  readonly from: LinkEnd;
  readonly to: LinkEnd;
  readonly at: EpochMs;
}
/** A pair that is new, or was told for the last time. */
export interface LinkTurn extends LinkBirth {
  readonly is: 'new' | 'gone';
}
/** A pair that was told, and by what: `requests` of spans, or `bytes` of connection counts. */
export interface ToldLink extends LinkBirth {
  readonly by: string;
}
/** A link is new where others were told so long before it. */
const OTHERS_BEFORE = 15 * MINUTE;

/** Who tells: what is counted in the caller's cluster; of callers outside, in the answerer's. */
const tellerOf = ({ from, to, by }: ToldLink) => `${by} ${from.cluster || to.cluster}`;

/**
 * Of each pair the first time. What came with the first that its cluster told in the same way was there before, as
 * far as anybody knows: a cluster whose past is known longer makes nothing new in another.
 */
export function birthsOf(told: Iterable<ToldLink>): LinkBirth[] {
  const first = new Map<string, ToldLink>();
  const begun = new Map<string, EpochMs>();
  for (const one of told) {
    const teller = tellerOf(one);
    begun.set(teller, Math.min(begun.get(teller) ?? one.at, one.at));
    const key = pairKey(one);
    const known = first.get(key);
    if (!known || one.at < known.at) first.set(key, one);
  }
  return [...first.values()]
    .filter((one) => one.at >= begun.get(tellerOf(one))! + OTHERS_BEFORE) // each was told by one
    .sort((a, b) => a.at - b.at)
    .map(({ from, to, at }) => ({ from, to, at }));
}
