import { describe, expect, it } from 'vitest';
import { AMOUNT_UNITS } from './tree.ts';
import {
  amountOf,
  BARE,
  divided,
  durationMs,
  durationOf,
  isAlike,
  multiplied,
  NONE,
  perSecond,
  SECONDS,
  shownAs,
  unitNamed,
  unitWords,
} from './units.ts';

const BYTES = unitNamed('bytes');
describe('units', () => {
  it('combine by multiplying and dividing, and go away', () => {
    expect(divided(BYTES, BYTES)).toEqual(NONE);
    expect(unitWords(divided(BYTES, SECONDS))).toBe('bytes per second');
    expect(multiplied(divided(BYTES, SECONDS), SECONDS)).toEqual(BYTES);
    expect(multiplied(BARE, BYTES)).toEqual(BYTES);
    expect(unitWords(divided(BARE, SECONDS))).toBe('per second');
    expect(unitWords(multiplied(BYTES, BYTES))).toBe('bytes^2');
  });
  it('make cores of seconds per second, and of nothing else', () => {
    expect(unitWords(perSecond(SECONDS))).toBe('cores');
    expect(unitWords(perSecond(BYTES))).toBe('bytes per second');
    expect(divided(SECONDS, SECONDS)).toEqual(NONE);
  });
  it('go together where they are alike: counts with ratios, a bare number with any', () => {
    expect(isAlike(unitNamed('ratio'), unitNamed(''))).toBe(true);
    expect(isAlike(BARE, BYTES)).toBe(true);
    expect(isAlike(SECONDS, BYTES)).toBe(false);
  });
  it('of written numbers come to base units', () => {
    expect(amountOf({ value: 80, unit: '%' })).toEqual({ value: 0.8, unit: NONE });
    expect(amountOf({ value: 1.5, unit: 'GiB' }).value).toBe(1.5 * 2 ** 30);
    expect(amountOf({ value: 200, unit: 'ms' }).value).toBe(0.2);
    expect(amountOf({ value: 5, unit: null }).unit).toEqual(BARE);
    for (const unit of AMOUNT_UNITS) expect(amountOf({ value: 3, unit }).value).toBeGreaterThan(0);
  });
  it('of durations are whole milliseconds, and are written back shortly', () => {
    expect(durationMs({ value: 1, unit: 'd' })).toBe(86_400_000);
    for (const text of [30_000, 300_000, 7_200_000, 604_800_000, 90_000])
      expect(durationMs(durationOf(text))).toBe(text);
    expect(durationOf(7_200_000)).toEqual({ value: 2, unit: 'h' });
  });
  it('are shown within their kind, name what has none, and are refused between kinds', () => {
    expect(shownAs(NONE, 'percent')).toEqual(NONE);
    expect(shownAs(NONE, 'boats')).toEqual(unitNamed('boats'));
    expect(shownAs(BARE, 'bytes')).toEqual(BYTES);
    expect(shownAs(BYTES, 'MiB')).toEqual(BYTES);
    expect(shownAs(SECONDS, 'ms')).toEqual(SECONDS);
    expect(() => shownAs(BYTES, 'seconds')).toThrow(/another kind: this is bytes/);
    expect(() => shownAs(BYTES, 'percent')).toThrow(/another kind/);
  });
});
