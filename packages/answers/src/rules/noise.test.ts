import { HOUR, MINUTE } from '@zetopsis/core/units';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { noiseOf, type PastAlert, quieted } from './noise.ts';

const past = (raised: number, lasted: number | null, more: Partial<PastAlert> = {}): PastAlert => ({
  subject: 'north',
  since: raised * MINUTE - 5 * MINUTE,
  raisedAt: raised * MINUTE,
  endedAt: lasted === null ? null : (raised + lasted) * MINUTE,
  toldAt: [raised * MINUTE, ...(lasted === null ? [] : [(raised + lasted) * MINUTE])],
  taken: false,
  ...more,
});
const SET = { holds: 5 * MINUTE, clearsAfter: 2 * MINUTE };
const noise = (alerts: readonly PastAlert[]) => noiseOf(alerts, SET, (at) => at % (24 * HOUR) < 7 * HOUR);

describe('noise of a rule', () => {
  it('counts what was raised, told, told at night, came back and was over soon', () => {
    const alerts = [past(0, 5), past(20, 200), past(600, null, { taken: true }), past(1000, 3, { subject: 'south' })];
    expect(noise(alerts)).toEqual({
      raised: 4,
      messages: 7,
      nights: 4,
      flapping: 1,
      shortLived: 2,
      taken: 1,
      suggestion: null,
    });
  });
  it('suggests a longer hold where most are over soon, and says how many fewer that is', () => {
    const alerts = Array.from({ length: 6 }, (_, i) => past(i * 300, i < 5 ? 4 : 100));
    // they held for 9 min in all: with a hold of 10 min none of the five would have been
    expect(noise(alerts).suggestion).toEqual({ is: 'hold longer', ms: 10 * MINUTE, fewer: 5 });
  });
  it('suggests a later all-clear where they come back', () => {
    const alerts = Array.from({ length: 7 }, (_, i) => past(i * 60, 40));
    expect(noise(alerts).suggestion).toEqual({ is: 'clear later', ms: 25 * MINUTE, fewer: 6 });
  });
  it('suggests a trial where many were told and nobody ever took one', () => {
    const alerts = Array.from({ length: 12 }, (_, i) => past(i * 600, 90, { subject: `s${i}` }));
    expect(noise(alerts).suggestion).toEqual({ is: 'on trial' });
    expect(noise(alerts.map((one, i) => ({ ...one, taken: i === 3 }))).suggestion).toBeNull();
  });
  it('is less in the document that is suggested, and nothing else of it is changed', () => {
    const document = {
      levels: { warning: { bound: 1, holdsSeconds: 300 }, critical: null },
      clears: { bound: null, afterSeconds: 120 },
      name: 'damp',
    };
    const ms = 15 * MINUTE;
    expect(quieted(document, { is: 'hold longer', ms, fewer: 1 })).toEqual({
      ...document,
      levels: { warning: { bound: 1, holdsSeconds: 900 }, critical: null },
    });
    expect(quieted(document, { is: 'clear later', ms, fewer: 1 })).toEqual({
      ...document,
      clears: { bound: null, afterSeconds: 900 },
    });
  });
  it('suggests nothing that changes nothing, whatever was raised', () => {
    const one = fc
      .record({
        at: fc.nat(20_000),
        lasted: fc.option(fc.nat(300)),
        subject: fc.constantFrom('north', 'south'),
        taken: fc.boolean(),
      })
      .map(({ at, lasted, ...more }) => past(at, lasted, more));
    fc.assert(
      fc.property(fc.array(one, { maxLength: 40 }), (alerts) => {
        const { suggestion, raised, shortLived, flapping, taken } = noise(alerts);
        expect([shortLived, flapping, taken].every((count) => count <= raised)).toBe(true);
        if (suggestion === null || suggestion.is === 'on trial') return;
        expect(suggestion.fewer).toBeGreaterThan(0);
        expect(suggestion.fewer).toBeLessThanOrEqual(raised);
        expect(suggestion.ms).toBeGreaterThan(suggestion.is === 'hold longer' ? SET.holds : SET.clearsAfter);
      }),
    );
  });
});
