import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MOST_STANDS, standsFor, traceStateOf } from './sampled.ts';

describe('for how many a span stands', () => {
  it.each([
    ['', 1],
    ['ot=th:0', 1],
    ['ot=th:8', 2],
    ['ot=th:c', 4],
    ['ot=rv:1234;th:e6666666666666', 10],
    ['other=x,ot=th:fd70a3d70a3d7', 100],
    [' ot=th:8 '.trim(), 2],
    ['ot=th:zz', 1],
    ['ot=th:', 1],
    ['th:8', 1],
    ['ot=th:ffffffffffffff', 1],
    [`ot=th:8,${'x'.repeat(600)}`, 1],
  ])('“%s”: %d', (state, stands) => {
    expect(standsFor(state)).toBeCloseTo(stands, 6);
  });
  it('is said again as it was', () => {
    expect(traceStateOf(1)).toBe('');
    expect(traceStateOf(4)).toBe('ot=th:c');
    fc.assert(
      fc.property(fc.double({ min: 1.001, max: MOST_STANDS * 0.999, noNaN: true }), (stands) => {
        expect(standsFor(traceStateOf(stands)) / stands).toBeCloseTo(1, 9);
      }),
    );
  });
  it('is a number within bounds, whatever is said', () => {
    const wild = fc.oneof(fc.string(), fc.stringMatching(/^ot=th:[0-9a-f]{1,16}$/));
    fc.assert(
      fc.property(wild, (state) => {
        const stands = standsFor(state);
        expect(stands >= 1 && stands <= MOST_STANDS).toBe(true);
      }),
    );
  });
});
