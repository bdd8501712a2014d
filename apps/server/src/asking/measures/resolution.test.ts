import { checkMeasure, parseMeasure } from '@zetopsis/core/measures';
import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Refusal } from '../../ground/platform/refusals.ts';
import { momentsOf, resolutionFor } from './resolution.ts';

const NOW = Date.UTC(2026, 10, 25, 12, 3, 17);
const KEPT = { samplesDays: 15, fiveMinutesDays: 90 };
function planOf(text: string) {
  const read = parseMeasure(text);
  if (!('body' in read)) throw new Error(read.problem.text);
  const checked = checkMeasure(read.body, {
    metric: (name) => ({ type: name.endsWith('_total') ? 'counter' : 'gauge', unit: null }),
    metrics: () => [],
    vital: () => null,
    vitals: () => [],
    measure: () => null,
    measures: () => [],
  });
  if (!('plan' in checked)) throw new Error(checked.problem.text);
  return checked.plan;
}
const resolved = (text: string, ago: number, { step, series = 10 }: { step?: number; series?: number } = {}) => {
  const times = momentsOf(
    { from: NOW - ago, to: NOW, in: [], explain: false, all: false, ...(step ? { step } : {}) },
    NOW,
  );
  return resolutionFor({
    plan: planOf(text),
    times,
    oldest: times[0]! - HOUR,
    now: NOW,
    intervals: Array.from({ length: series }, () => 15_000),
    kept: KEPT,
  });
};

describe('moments that are asked for', () => {
  it('lie within the window, evenly, at most 401 of them, and end at its end or a bucket before', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1000, max: 399 * DAY }), (length) => {
        const times = momentsOf({ from: NOW - length, to: NOW + DAY, in: [], explain: false, all: false }, NOW);
        expect(times.length).toBeLessThanOrEqual(401);
        expect(times[0]).toBeGreaterThanOrEqual(NOW - length);
        const bucket = length > 12 * DAY ? HOUR : length > 20 * HOUR ? 5 * MINUTE : 1;
        expect(times.at(-1)).toBe(Math.floor(NOW / bucket) * bucket);
        expect(new Set(times.slice(1).map((at, i) => at - times[i]!)).size).toBeLessThanOrEqual(1);
      }),
    );
  });
});

describe('what a measure is read from', () => {
  it.each([
    // within what samples are kept for: only where roll-ups say the same
    ['read a', 3 * HOUR, {}, 'samples'],
    ['read a\nhighest over 1h', 3 * DAY, {}, 'five'],
    ['read a\nhighest over 1h', 3 * DAY, { step: 90_000 }, 'samples'],
    ['read a\nhighest over 90s', 3 * DAY, {}, 'samples'],
    ['read a\npercentile 95 over 1h', 3 * DAY, {}, 'samples'],
    // of samples there would be more than one question may read
    ['read a\nhighest over 90s', 3 * DAY, { series: 1000 }, 'five'],
    ['read a_total\nper second over 5m\nhighest over 1d', 14 * DAY, {}, 'five'],
    ['read a\npercentile 95 over 1h', 3 * DAY, { series: 1000 }, 'samples'],
    // beyond it
    ['read a\nhighest over 90s', 20 * DAY, {}, 'five'],
    ['read a\nhighest over 1h', 20 * DAY, {}, 'hour'],
    ['read a\nhighest over 90s', 20 * DAY, { series: 3000 }, 'hour'],
    ['read a\nhighest over 90s', 100 * DAY, {}, 'hour'],
  ] as const)('%s, %i ms long: %o', (text, ago, more, resolution) => {
    const told = resolved(text, ago, more);
    expect(told.resolution).toBe(resolution);
    expect(told.note === null).toBe(resolution === 'samples');
  });
  it('says why roll-ups stand in, and for how long samples are kept where nothing can', () => {
    expect(resolved('read a\nhighest over 1h', 3 * DAY).note).toBe('Read from roll-ups of 5 min.');
    expect(resolved('read a\nhighest over 90s', 20 * DAY).note).toMatch(/5 min: what is older is kept so, and/);
    expect(() => resolved('read a\ntime above 3 over 1h', 20 * DAY)).toThrow(Refusal);
    expect(() => resolved('read a\ntime above 3 over 1h', 20 * DAY)).toThrow(/“time above 3 over 1h”.*15 days/);
  });
});
