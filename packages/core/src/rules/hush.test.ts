import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HOUR, MINUTE } from '../units/index.ts';
import { type HushWhen, hushedWithin, hushWords, isHushed, isOver, minutesAWeek, WEEKDAYS } from './index.ts';

const never = () => false;
const at = (iso: string) => Date.parse(iso);
const weekly = (days: readonly (typeof WEEKDAYS)[number][], from: string, to: string, zone = 'UTC'): HushWhen => ({
  is: 'weekly',
  zone,
  days,
  from,
  to,
});

describe('when a hush holds, as the tape draws it', () => {
  it('is when it holds at each moment, over midnight and over a change of the clock', () => {
    const clock = fc
      .tuple(fc.integer({ min: 0, max: 23 }), fc.constantFrom('00', '15', '40'))
      .map(([hour, minute]) => `${String(hour).padStart(2, '0')}:${minute}`);
    const days = fc.subarray([...WEEKDAYS], { minLength: 1 });
    const begin = fc
      .constantFrom('2026-10-24T06:00:00Z', '2026-03-28T21:00:00Z', '2026-06-01T00:00:00Z')
      .map((text) => Date.parse(text));
    fc.assert(
      fc.property(days, clock, clock, fc.constantFrom('UTC', 'Europe/Oslo'), begin, (on, from, to, zone, first) => {
        const when = weekly(on, from, to, zone);
        const last = first + 3 * 24 * HOUR;
        const spans = hushedWithin(when, first, last);
        for (let moment = first; moment < last; moment += 7 * MINUTE)
          expect(spans.some((span) => moment >= span.from && moment < span.to)).toBe(isHushed(when, moment, never));
        for (const [i, span] of spans.entries()) expect(span.from).toBeGreaterThanOrEqual(spans[i - 1]?.to ?? first);
      }),
      { numRuns: 25 },
    );
  });
  it('is cut to what is looked at, and unknown of a node’s maintenance', () => {
    const once: HushWhen = { is: 'once', from: '2026-11-30T10:00:00Z', to: '2026-11-30T12:00:00Z' };
    expect(hushedWithin(once, at('2026-11-30T11:00:00Z'), at('2026-11-30T20:00:00Z'))).toEqual([
      { from: at('2026-11-30T11:00:00Z'), to: at('2026-11-30T12:00:00Z') },
    ]);
    expect(hushedWithin(once, at('2026-11-30T13:00:00Z'), at('2026-11-30T20:00:00Z'))).toEqual([]);
    expect(hushedWithin({ is: 'maintenance' }, 0, HOUR)).toEqual([]);
  });
});

describe('a hush', () => {
  it('once holds from its beginning to before its end', () => {
    const when: HushWhen = { is: 'once', from: '2026-11-30T10:00:00+01:00', to: '2026-11-30T12:00:00+01:00' };
    const held = (iso: string) => isHushed(when, at(iso), never);
    expect(
      ['2026-11-30T08:59:59Z', '2026-11-30T09:00:00Z', '2026-11-30T10:59:59Z', '2026-11-30T11:00:00Z'].map(held),
    ).toEqual([false, true, true, false]);
    expect([isOver(when, at('2026-11-30T10:00:00Z')), isOver(when, at('2026-11-30T11:00:00Z'))]).toEqual([false, true]);
  });
  it('of a week holds on its days in its zone, over midnight too', () => {
    // the 30th of November 2026 is a Monday
    const nights = weekly(['Mon'], '22:00', '06:00', 'Europe/Oslo');
    const held = (iso: string) => isHushed(nights, at(iso), never);
    expect(held('2026-11-30T20:59:00Z')).toBe(false);
    expect(held('2026-11-30T21:00:00Z')).toBe(true);
    expect(held('2026-12-01T04:59:00Z')).toBe(true);
    expect(held('2026-12-01T05:00:00Z')).toBe(false);
    expect(held('2026-11-29T22:00:00Z')).toBe(false);
    expect(isOver(nights, at('2030-01-01T00:00:00Z'))).toBe(false);
    expect(isHushed(weekly(['Tue'], '00:00', '00:00'), at('2026-12-01T23:59:00Z'), never)).toBe(true);
  });
  it('of maintenance holds while the node takes no pods', () => {
    expect(isHushed({ is: 'maintenance' }, 0, () => true)).toBe(true);
    expect(isHushed({ is: 'maintenance' }, 0, never)).toBe(false);
  });
  it('of a week holds as many minutes of any week as it says, whatever the days and times', () => {
    const clock = fc
      .record({ hour: fc.integer({ min: 0, max: 23 }), half: fc.boolean() })
      .map(({ hour, half }) => `${String(hour).padStart(2, '0')}:${half ? '30' : '00'}`);
    fc.assert(
      fc.property(
        fc.subarray([...WEEKDAYS]),
        clock,
        clock,
        fc.integer({ min: 0, max: 5000 }),
        (days, from, to, begin) => {
          const when = weekly(days, from, to);
          let held = 0;
          // overlaps count once: hours of yesterday's night and of today's
          for (let half = 0; half < 7 * 48; half++)
            if (isHushed(when, begin * HOUR + half * 30 * MINUTE, never)) held += 30;
          expect(held).toBe(minutesAWeek(when));
        },
      ),
    );
  });
  it('is said in words', () => {
    const clock = (time: number) => new Date(time).toISOString().slice(0, 16);
    expect(hushWords(weekly(['Mon', 'Tue'], '22:00', '06:00'), clock)).toBe('Mon, Tue 22:00 to 06:00, UTC');
    expect(hushWords(weekly(WEEKDAYS, '22:00', '06:00'), clock)).toContain('every day');
    expect(hushWords({ is: 'once', from: '2026-11-30T10:00:00Z', to: '2026-11-30T12:00:00Z' }, clock)).toBe(
      '2026-11-30T10:00 to 2026-11-30T12:00',
    );
    expect(hushWords({ is: 'maintenance' }, clock)).toContain('no new pods');
  });
});
