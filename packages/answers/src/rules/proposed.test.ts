import { proposedBound } from '@zetopsis/core/rules';
import { DAY, MINUTE } from '@zetopsis/core/units';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { JudgedLine, MeasureCondition } from './measureLines.ts';
import { rehearse } from './rehearse.ts';

const STEP = 10 * MINUTE;
const WEEKS = 4;
const HALF = (WEEKS * 7 * DAY) / STEP;

/** Numbers from 0 to 1 that look random, always the same ones. */
function chance(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  };
}
interface Kind {
  readonly seed: number;
  readonly objects: number;
  /** Of the wave of a day, and of what is noise. */
  readonly wave: number;
  readonly noise: number;
  /** How often a day it is out of the ordinary, for how many readings, and how far. */
  readonly surgesADay: number;
  readonly lasts: number;
  readonly high: number;
}
/** Use of objects over both halves: a daily wave, noise, and now and then a surge. */
function history({ seed, objects, wave, noise, surgesADay, lasts, high }: Kind): Float64Array[] {
  const next = chance(seed);
  return Array.from({ length: objects }, () => {
    const values = new Float64Array(2 * HALF);
    const level = 0.3 + 0.1 * next();
    let [left, height] = [0, 0];
    for (let i = 0; i < values.length; i++) {
      if (left > 0) left--;
      else if (next() < (surgesADay * STEP) / DAY) {
        left = Math.ceil(lasts * (0.5 + next()));
        height = -high * Math.log(1 - next());
      } else height = 0;
      values[i] = level + wave * Math.sin((2 * Math.PI * i * STEP) / DAY) + noise * (next() + next() - 1) + height;
    }
    return values;
  });
}
const lineOf = (values: Float64Array): JudgedLine => ({
  labels: {},
  name: null,
  values,
  marks: new Uint8Array(values.length),
});
const MOMENTS = Float64Array.from({ length: HALF }, (_, i) => i * STEP);
const WINDOW = { from: 0, to: HALF * STEP };

describe('a threshold that is proposed', () => {
  const level = { low: null, holdsSeconds: 600, readings: null };
  const times = {
    warning: { holds: 10 * MINUTE, eases: 10 * MINUTE },
    critical: { holds: 10 * MINUTE, eases: 10 * MINUTE },
  };
  const looked = (lines: readonly JudgedLine[], side: 'above' | 'below', bound: number) => {
    const condition: MeasureCondition = {
      compare: side,
      rule: 'x',
      thresholds: {
        levels: { warning: { ...level, bound }, critical: null },
        clears: { bound: null, low: null },
        side,
      },
    };
    return rehearse(MOMENTS, lines, { condition, times, open: null, troubles: [] });
  };
  const kind = fc.record({
    seed: fc.nat(),
    objects: fc.integer({ min: 1, max: 4 }),
    wave: fc.constantFrom(0, 0.05, 0.1),
    noise: fc.constantFrom(0.01, 0.05),
    surgesADay: fc.constantFrom(0.3, 1, 3),
    lasts: fc.integer({ min: 2, max: 8 }),
    high: fc.constantFrom(0.1, 0.3),
  });
  it('on one half of a history raises as often on the other half, within 30 %', () => {
    const seen: { first: number; other: number }[] = [];
    fc.assert(
      fc.property(kind, fc.constantFrom('above', 'below'), (own, side) => {
        // what is low is what is high, seen from below
        const all = history(own).map((values) => (side === 'above' ? values : values.map((value) => -value)));
        const halves = [0, HALF].map((at) => all.map((values) => lineOf(values.slice(at, at + HALF))));
        const { curve } = looked(halves[0]!, side, 0);
        const bound = proposedBound(curve, { ...WINDOW, side, except: 0 });
        expect(bound).not.toBeNull();
        const [first, other] = halves.map((lines) => looked(lines, side, bound!).raised.length);
        // at most one a week where it was looked for
        expect(first).toBeLessThanOrEqual(WEEKS);
        // the curve counts what is raised
        expect(curve.find((one) => one.bound === bound)!.raised).toBe(first);
        seen.push({ first: first!, other: other! });
      }),
      { numRuns: 40, endOnFailure: true },
    );
    const sum = (of: 'first' | 'other') => seen.reduce((all, one) => all + one[of], 0);
    expect(sum('first')).toBeGreaterThan(100);
    expect(Math.abs(sum('other') / sum('first') - 1)).toBeLessThan(0.3);
    console.log(
      `proposed: ${sum('first')} raised where it was looked for, ${sum('other')} on the other half, of ${seen.length} histories`,
    );
  }, 60_000);
});
