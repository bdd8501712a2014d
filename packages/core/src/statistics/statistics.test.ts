import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fitLine } from '../trend/line.ts';
import { headingOf } from '../usage/grid.ts';
import { FEWEST_POINTS, medianSlope } from './index.ts';

const line = (length: number, slope: number, level = 10) => Float64Array.from({ length }, (_, i) => level + slope * i);

describe('the median of slopes', () => {
  it('is the slope of a straight line, whatever is missing of it', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -100, max: 100, noNaN: true }),
        fc.integer({ min: 20, max: 300 }),
        fc.array(fc.nat(299), { maxLength: 8 }),
        fc.integer({ min: 10, max: 120 }),
        (slope, length, missing, most) => {
          const values = line(length, slope);
          for (const at of missing) if (at < length) values[at] = Number.NaN;
          expect(medianSlope(values, most)).toBeCloseTo(slope, 6);
        },
      ),
    );
  });
  it('is not moved by a few that are far off', () => {
    const values = line(100, 2);
    for (const at of [3, 40, 41, 77]) values[at] = 1e9;
    expect(medianSlope(values, 100)).toBeCloseTo(2, 6);
  });
  it('is not known of too few points, and all who tell of a trend need as many', () => {
    for (const [count, known] of [
      [FEWEST_POINTS - 1, false],
      [FEWEST_POINTS, true],
    ] as const) {
      const values = new Float64Array(60).fill(Number.NaN);
      for (let i = 0; i < count; i++) values[59 - i * 5] = 100 - i * 20;
      expect([medianSlope(values, 48), fitLine(values), headingOf(values)].map((one) => one !== null)).toEqual([
        known,
        known,
        known,
      ]);
    }
  });
});
