import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HOUR, MINUTE } from '../units/index.ts';
import { gapsIn, type LinkDay, rateOfDay, silentSince } from './silence.ts';

const AT = 497_222 * HOUR + 25 * MINUTE;
const UP_TO = 497_222 * HOUR;
const MINUTES = 66;
const FIVES = 288;
/** What came in each minute; `ago`: how many minutes before the moment it ended. */
type Came = (ago: number) => number;
const minutesOf = (came: Came) => Float64Array.from({ length: MINUTES }, (_, i) => came(MINUTES - 1 - i));
/** The same over a day, as it is read: in fives up to the last whole hour. */
function dayOf(came: Came, lastAt: number | null = null): LinkDay {
  const fives = Float64Array.from({ length: FIVES }, (_, i) => {
    let sum = 0;
    for (let minute = 0; minute < 5; minute++) sum += came((AT - UP_TO) / MINUTE + (FIVES - 1 - i) * 5 + (4 - minute));
    return sum;
  });
  return { fives, upTo: UP_TO, lastAt };
}
const since = (came: Came, typical: number | null = null, last: number | null = null) =>
  silentSince({ minutes: minutesOf(came), day: dayOf(came, last), typical }, MINUTES, AT);
const until =
  (ago: number): Came =>
  (minute) =>
    minute < ago ? 0 : 30;

describe('a link that was silent for longer than an hour', () => {
  it('is silent since the minute in which it was heard last, whenever it is looked at', () => {
    for (const ago of [20, 45, 57, 66, 70, 130, 600, 1200]) {
      const heard = AT - ago * MINUTE;
      expect((AT - since(until(ago), null, heard)!) / MINUTE, `${ago} min`).toBe(ago);
    }
  });
  it('has the same date where some of its minutes were not told', () => {
    const came: Came = (ago) => (ago >= 5 && ago < 9 ? Number.NaN : until(40)(ago));
    expect(since(came)).toBe(AT - 40 * MINUTE);
    expect(silentSince({ minutes: minutesOf(came), day: null, typical: null }, MINUTES, AT)).toBe(AT - 40 * MINUTE);
  });
  it('is told to five minutes where the minutes of that hour are not read', () => {
    const told = since(until(200))!;
    expect(told).toBeGreaterThanOrEqual(AT - 200 * MINUTE);
    expect(told).toBeLessThan(AT - 195 * MINUTE + 1);
  });
  it('is gone after a day: that is no trouble any more', () => {
    expect(since(until(25 * 60))).toBeNull();
  });
  it('is none that is quiet as long as ever: by turns, at night, by the hour of other days', () => {
    // twelve minutes of each hour
    expect(since((ago) => (ago % 60 >= 48 ? 5 : 0))).toBeNull();
    // from the morning to the evening, 80 minutes ago
    const daily: Came = (ago) => (ago >= 80 && ago < 80 + 600 ? 30 : 0);
    expect(since(daily)).toBeNull();
    expect(since(daily, 0)).toBeNull();
    // but where it carries something at this hour on other days
    expect(since(daily, 0.5)).not.toBeNull();
    expect(since(until(40), 0)).toBeNull();
  });
  it('is not told of what came now and then, nor of what was not read', () => {
    expect(since((ago) => (ago % 17 === 0 && ago > 60 ? 1 : 0))).toBeNull();
    expect(since((ago) => (ago > 300 && ago < 310 ? 1 : 0))).toBeNull();
    expect(since((ago) => (ago < 20 ? Number.NaN : 30))).toBeNull();
    const unread = dayOf(() => Number.NaN);
    expect(silentSince({ minutes: minutesOf(until(90)), day: unread, typical: null }, MINUTES, AT)).toBeNull();
    // as without a day, where of the day too little is known
    expect(silentSince({ minutes: minutesOf(until(30)), day: unread, typical: null }, MINUTES, AT)).toBe(
      AT - 30 * MINUTE,
    );
  });
  it('property: once silent it stays so, with one date, as long as nothing comes and the day remembers it', () => {
    fc.assert(
      fc.property(fc.integer({ min: 12, max: 900 }), fc.integer({ min: 1, max: 60 }), (first, later) => {
        const heard = AT - first * MINUTE;
        const now = since(until(first), null, heard);
        expect(now).toBe(heard);
        const at = AT + later * MINUTE;
        const day = dayOf(until(first), heard);
        const minutes = minutesOf((ago) => (ago < first + later ? 0 : 30));
        expect(silentSince({ minutes, day, typical: null }, MINUTES, at)).toBe(heard);
      }),
    );
  });
});
describe('a gap in what many tell', () => {
  const gaps = (came: Came) => gapsIn(minutesOf(came)).reduce((sum, one) => sum + one, 0);
  it('stands out of its pauses, at its end and in between, several of them too', () => {
    expect(gaps((ago) => (ago < 4 ? 0 : 30))).toBe(4);
    expect(gaps((ago) => (ago >= 10 && ago < 15 ? 0 : 30))).toBe(5);
    expect(gaps((ago) => (ago < 6 || (ago >= 20 && ago < 40) ? 0 : 30))).toBe(26);
    expect(gaps((ago) => (ago < 25 || ago % 3 === 0 ? 0 : 30))).toBe(25);
    expect(gaps((ago) => (ago < 9 || ago % 3 === 0 ? 0 : 30))).toBe(0);
  });
  it('is none that is as long as others, too short, not told, or chance', () => {
    expect(gaps((ago) => (ago < 3 ? 0 : 30))).toBe(0);
    expect(gaps((ago) => (ago % 12 < 5 ? 0 : 30))).toBe(0);
    expect(gaps((ago) => (ago < 20 ? Number.NaN : 30))).toBe(0);
    expect(gaps((ago) => (ago % 7 === 5 ? 1 : 0))).toBe(0);
    expect(gaps(() => 0)).toBe(0);
  });
});
it('what a day carried, in its quieter fives', () => {
  expect(rateOfDay(dayOf(() => 30))).toBe(0.5);
  expect(rateOfDay(dayOf(() => 0))).toBeNull();
  expect(rateOfDay(dayOf((ago) => (ago > 700 ? 60 : 30)))).toBe(0.5);
});
