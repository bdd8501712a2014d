import fc from 'fast-check';
import { expect, it } from 'vitest';
import { placeOf, shownFrom } from './useInSight.ts';

it('what is brought into sight is seen whole, else its middle; what is seen already stays', () => {
  const length = fc.integer({ min: 0, max: 3000 });
  fc.assert(
    fc.property(length, fc.integer({ min: 200, max: 2000 }), length, length, (at, seen, from, long) => {
      const to = from + long;
      const shown = shownFrom(at, seen, from, to);
      expect(shown).toBeGreaterThanOrEqual(0);
      if (long <= seen) {
        expect(shown).toBeLessThanOrEqual(from);
        expect(shown + seen).toBeGreaterThanOrEqual(to);
        if (from >= at && to <= at + seen) expect(shown).toBe(at);
      } else
        expect(Math.abs(shown + seen / 2 - (from + to) / 2)).toBeLessThanOrEqual(0.5 + Math.max(0, seen - from - to));
    }),
  );
});
it('a link is where both its ends are, a box where it is', () => {
  const box = (key: string, x: number, y: number, rows = 0) => ({
    ...{ key, name: key, lane: '', box: null, holds: 0, worst: null },
    ...{ x, y, rows },
  });
  const boxes = [box('a', 14, 26), box('b', 268, 300, 2)];
  const links = [{ key: 'a → b', from: 'a', to: 'b', links: ['x → y'], link: null as never }];
  expect(placeOf({ boxes, links }, 'x → y')).toEqual({ left: 14, right: 268 + 168, top: 26, bottom: 300 + 30 + 38 });
  expect(placeOf({ boxes, links }, 'a')).toEqual({ left: 14, right: 182, top: 26, bottom: 56 });
  expect(placeOf({ boxes, links }, 'c')).toBeNull();
});
