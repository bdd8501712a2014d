import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';
import { describe, expect, it } from 'vitest';
import { nightsIn } from './nights.ts';

/** Hours of the clock in a zone at which it is night, over a day from a moment. */
const nightHours = (zone: string, from: number): number[] => {
  const isNight = nightsIn(zone);
  return Array.from({ length: 24 }, (_, hour) => hour).filter((hour) => isNight(from + hour * HOUR));
};

describe('night', () => {
  it('is from 22:00 until 07:00, to the minute', () => {
    const isNight = nightsIn('UTC');
    const midnight = Date.UTC(2026, 10, 30);
    const at = (hour: number, minute: number) => isNight(midnight + hour * HOUR + minute * MINUTE);
    expect([at(21, 59), at(22, 0), at(23, 59), at(0, 0), at(6, 59), at(7, 0)]).toEqual([
      false,
      true,
      true,
      true,
      true,
      false,
    ]);
  });
  it('goes by the clock of the zone, half hours and the other side of the world too', () => {
    const midnight = Date.UTC(2026, 10, 30);
    expect(nightHours('UTC', midnight)).toEqual([0, 1, 2, 3, 4, 5, 6, 22, 23]);
    expect(nightHours('Asia/Tokyo', midnight)).toEqual([13, 14, 15, 16, 17, 18, 19, 20, 21]);
    expect(nightHours('Asia/Kolkata', midnight)).toEqual([0, 1, 17, 18, 19, 20, 21, 22, 23]);
  });
  it('is an hour shorter and longer when clocks change', () => {
    const hours = (from: number) => {
      const isNight = nightsIn('Europe/Oslo');
      return Array.from({ length: 24 }, (_, hour) => isNight(from + hour * HOUR)).filter(Boolean).length;
    };
    const noons = [Date.UTC(2026, 2, 28, 12), Date.UTC(2026, 5, 10, 12), Date.UTC(2026, 9, 24, 12)];
    expect(noons.map(hours)).toEqual([8, 9, 10]);
    expect(hours(noons[1]! + DAY)).toBe(9);
  });
});
