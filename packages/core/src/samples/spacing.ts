import { type DurationMs, type EpochMs, HOUR, MINUTE } from '../units/index.ts';

/** How long a sample holds when no newer one comes: two and a half of its series' intervals (design/measures.md). */
export const stalenessOf = (interval: DurationMs): DurationMs => interval * 2.5;

/** However far apart its samples lie, none holds longer than this. */
export const HOLDS_AT_MOST: DurationMs = 2.5 * HOUR;

/** Of the time after which one is late: four intervals. Three readings lost on both sides of one are no chance. */
const LATE_TWICE = 4 / 2.5;
/**
 * How far apart the samples of a series lie around one of them, where that is clearly further than readings are (further
 * than four readings, or than a minute): the
 * smaller of the two gaps beside it, so that one gap in what is read often is not taken for the spacing. 0 where they come
 * as readings do, and with fewer than two gaps: then nobody knows.
 */
export function widerAt(times: ArrayLike<EpochMs>, index: number, staleness: DurationMs): DurationMs {
  if (times.length < 3) return 0;
  const middle = Math.min(Math.max(index, 1), times.length - 2);
  const gap = Math.min(times[middle]! - times[middle - 1]!, times[middle + 1]! - times[middle]!);
  return gap >= Math.min(MINUTE, LATE_TWICE * staleness) && stalenessOf(gap) > 2 * staleness ? gap : 0;
}
/** A sample holds for as long as samples of its series are late at most, and never less than readings are. */
export const holdOf = (times: ArrayLike<EpochMs>, index: number, staleness: DurationMs): DurationMs =>
  Math.max(staleness, Math.min(HOLDS_AT_MOST, stalenessOf(widerAt(times, index, staleness))));
