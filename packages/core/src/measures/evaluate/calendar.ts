import { DateTime } from 'luxon';
import { DAY, type EpochMs, HOUR } from '../../units/index.ts';
import type { DayTime } from './trends.ts';

/** Ends of hours, days or weeks of a zone in (from, to]; weeks begin on Monday. */
export function binEnds(by: 'hour' | 'day' | 'week', zone: string, from: EpochMs, to: EpochMs): EpochMs[] {
  const ends: EpochMs[] = [];
  let bin = DateTime.fromMillis(from, { zone }).startOf(by);
  while (bin.toMillis() <= to) {
    if (bin.toMillis() > from) ends.push(bin.toMillis());
    bin = bin.plus({ [by]: 1 }).startOf(by);
  }
  return ends;
}
/** The bin that holds a moment: (from, to]; the moment ends it, or it is running. */
export function binOf(
  by: 'hour' | 'day' | 'week',
  zone: string,
  at: EpochMs,
): { readonly from: EpochMs; readonly running: boolean } {
  const begun = DateTime.fromMillis(at, { zone }).startOf(by);
  if (begun.toMillis() !== at) return { from: begun.toMillis(), running: true };
  return { from: begun.minus({ milliseconds: 1 }).startOf(by).toMillis(), running: false };
}
/** Looks a zone's times of day up once an hour of it: a zone changes on whole quarters at most. */
export function dayTimesIn(zone: string): (at: EpochMs) => DayTime {
  const known = new Map<number, { readonly offset: number }>();
  return (at) => {
    const quarter = Math.floor(at / (HOUR / 4));
    let own = known.get(quarter);
    if (!own) {
      own = { offset: DateTime.fromMillis(quarter * (HOUR / 4), { zone }).offset * 60_000 };
      known.set(quarter, own);
    }
    const local = at + own.offset;
    const day = Math.floor(local / DAY);
    // day 0 of 1970 was a Thursday
    const weekday = (((day + 3) % 7) + 7) % 7;
    return { of: local - day * DAY, day, weekend: weekday >= 5 };
  };
}
