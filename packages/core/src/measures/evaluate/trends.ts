import { percentile } from '../../statistics/index.ts';
import { dailyRhythm, fitLine, rhythmAt } from '../../trend/index.ts';
import { DAY, type DurationMs, type EpochMs, MINUTE } from '../../units/index.ts';

/** What was before, evenly: the last value belongs to the moment that it is looked at from. NaN: nothing was there. */
export interface Before {
  readonly start: EpochMs;
  readonly step: DurationMs;
  readonly values: Float64Array;
}
/** Eight of ten of a normal distribution lie within so many deviations. */
const WITHIN = 1.2816;

export interface Ahead {
  readonly value: number;
  readonly low: number;
  readonly high: number;
}
/** The robust line through what was, so much later; null with too few points. */
export function ahead(before: Before, rhythm: boolean): ((later: DurationMs) => Ahead) | null {
  const own = rhythm ? dailyRhythm(before) : null;
  const { start, step } = before;
  const line = fitLine(before.values.map((value, i) => value - rhythmAt(own, start + i * step)));
  if (!line) return null;
  const last = before.values.length - 1;
  return (later) => {
    const steps = later / step;
    const value = line.level + line.slope * (last + steps) + rhythmAt(own, start + last * step + later);
    const error = WITHIN * Math.hypot(line.noise, line.levelError, line.slopeError * steps);
    return { value, low: value - error, high: value + error };
  };
}

const LOOKED_AHEAD = 90 * DAY;
/** Milliseconds until it is at a bound; 'not soon': not within 90 days, as it goes. Null with too few points. */
export function untilBound({ step, values }: Before, bound: number): DurationMs | 'not soon' | null {
  const line = fitLine(values);
  if (!line) return null;
  const now = line.level + line.slope * (values.length - 1);
  // it began on one side and is on the other
  if (now === bound || Math.sign(line.level - bound) * Math.sign(now - bound) < 0) return 0;
  const until = ((bound - now) / line.slope) * step;
  return until >= 0 && until <= LOOKED_AHEAD ? until : 'not soon';
}

const AROUND = 30 * MINUTE;
const FEWEST_DAYS = 4;
export interface Usual extends Ahead {
  /** There were too few days of its kind: any day was taken. */
  readonly anyDay: boolean;
}
/** The time of a day in a zone, and which day it is. */
export interface DayTime {
  readonly of: DurationMs;
  readonly day: number;
  readonly weekend: boolean;
}
/** What it was at this hour of other days, before the day of the moment; null with too few days. */
export function usualAt(at: EpochMs, before: Before, dayTime: (at: EpochMs) => DayTime): Usual | null {
  const own = dayTime(at);
  const found: { readonly value: number; readonly day: number; readonly weekend: boolean }[] = [];
  for (let i = 0; i < before.values.length; i++) {
    const value = before.values[i]!;
    if (Number.isNaN(value)) continue;
    const then = dayTime(before.start + i * before.step);
    const apart = Math.abs(then.of - own.of);
    if (then.day < own.day && Math.min(apart, DAY - apart) <= AROUND) found.push({ value, ...then });
  }
  const alike = found.filter(({ weekend }) => weekend === own.weekend);
  const days = (list: typeof found) => new Set(list.map(({ day }) => day)).size;
  const anyDay = days(alike) < FEWEST_DAYS;
  const values = (anyDay ? found : alike).map(({ value }) => value);
  if (values.length === 0) return null;
  return {
    value: percentile(values, 0.5)!,
    low: percentile(values, 0.1)!,
    high: percentile(values, 0.9)!,
    anyDay,
  };
}
