import { DAY, type EpochMs } from '../units/index.ts';

/** What a number would have come to over a window: how often something would have been raised. */
export interface Tried {
  readonly bound: number;
  readonly raised: number;
}

/** So often something may be raised: once a week, once in less than one. */
export const weeksIn = (from: EpochMs, to: EpochMs): number => Math.max(1, (to - from) / (7 * DAY));
/**
 * The number to begin with, from what other numbers would have come to: the nearest that raises at most one alert a week; the
 * farthest where too little is known for any to have raised one. Null where nothing was read. `tried` ascends; `except`: a number
 * that was set to look back with, and is none of the values'.
 */
export function proposedBound(
  tried: readonly Tried[],
  {
    from,
    to,
    side,
    except,
  }: { readonly from: EpochMs; readonly to: EpochMs; readonly side: 'above' | 'below'; readonly except?: number },
): number | null {
  const weeks = weeksIn(from, to);
  const seen = tried.filter(({ bound }) => bound !== except);
  const inOrder = side === 'above' ? seen : [...seen].reverse();
  if (inOrder[0]?.raised === 0) return inOrder.at(-1)!.bound;
  return inOrder.find(({ raised }) => raised <= weeks)?.bound ?? null;
}
