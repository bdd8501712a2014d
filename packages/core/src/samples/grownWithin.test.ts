import { describe, expect, it } from 'vitest';
import { grownWithin } from './grownWithin.ts';

const samples = (...of: (readonly [at: number, value: number])[]) => ({
  times: Float64Array.from(of, ([at]) => at),
  values: Float64Array.from(of, ([, value]) => value),
});
const window = { from: 100, to: 200, begins: true };

describe('how much was counted in a window', () => {
  it('is what came after its beginning, over resets, from nothing where it begins within', () => {
    expect(grownWithin(samples([90, 5], [110, 8], [190, 12], [210, 50]), window)).toBe(7);
    expect(grownWithin(samples([90, 5], [110, 8], [150, 2], [190, 3]), window)).toBe(6);
    expect(grownWithin(samples([150, 4], [190, 6]), window)).toBe(6);
    // it may have been there before
    expect(grownWithin(samples([110, 400], [190, 406]), { ...window, begins: false })).toBe(6);
    expect(grownWithin(samples([90, 5], [120, Number.NaN], [150, 9]), window)).toBe(4);
    expect(grownWithin(samples(), window)).toBe(0);
  });
});
