import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { firstOf, merged, toTheEnd } from './index.ts';

const ascending = (a: number, b: number) => a - b;
const stepsOf = (work: Generator<unknown, unknown>) => {
  let steps = 0;
  while (!work.next().done) steps++;
  return steps;
};

describe('work in steps', () => {
  it('finds the first of many as sorting the whole would', () => {
    fc.assert(
      fc.property(fc.array(fc.integer()), fc.integer({ min: 1, max: 12 }), (items, most) => {
        expect(toTheEnd(firstOf(items, most, ascending))).toEqual([...items].sort(ascending).slice(0, most));
      }),
    );
  });
  it('merges two ordered lists as sorting both would', () => {
    fc.assert(
      fc.property(fc.array(fc.integer()), fc.array(fc.integer()), (a, b) => {
        const all = toTheEnd(merged([...a].sort(ascending), [...b].sort(ascending), ascending));
        expect(all).toEqual([...a, ...b].sort(ascending));
      }),
    );
  });
  it('pauses at each of what is walked', () => {
    const many = Array.from({ length: 300 }, (_, i) => i);
    expect(stepsOf(firstOf(many, 5, ascending))).toBe(300);
    expect(stepsOf(merged(many, many, ascending))).toBe(300);
  });
});
