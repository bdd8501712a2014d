import { NONE } from '@zetopsis/core/measures';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { drawnLines } from './drawn.ts';

describe('the lines of a rehearsal that are drawn', () => {
  it('are those that come farthest, each past a number wherever what it stands for is', () => {
    const value = fc.option(fc.integer({ min: -20, max: 20 }), { nil: null });
    fc.assert(
      fc.property(
        fc
          .integer({ min: 1, max: 40 })
          .chain((length) =>
            fc.array(fc.array(value, { minLength: length, maxLength: length }), { minLength: 1, maxLength: 6 }),
          ),
        fc.constantFrom('above', 'below'),
        fc.integer({ min: 1, max: 12 }),
        fc.integer({ min: 1, max: 4 }),
        fc.integer({ min: -20, max: 20 }),
        (all, side, points, most, bound) => {
          const moments = all[0]!.map((_, i) => 1000 + i * 60);
          const lines = all.map((own) => ({
            values: Float64Array.from(own, (one) => one ?? Number.NaN),
            marks: Uint8Array.from(own, (one) => (one === null ? NONE : 0)),
          }));
          const drawn = drawnLines(moments, lines, { side, most, points });
          const isPast = (one: number | null) => one !== null && (side === 'above' ? one > bound : one < bound);
          expect(drawn.times.length).toBeLessThanOrEqual(points);
          const each = Math.ceil(moments.length / points);
          for (const { line, values } of drawn.lines) {
            expect(values.length).toBe(drawn.times.length);
            for (const [i, shown] of values.entries()) {
              const own = all[line]!.slice(i * each, (i + 1) * each);
              expect(isPast(shown)).toBe(own.some(isPast));
              expect(shown === null).toBe(own.every((one) => one === null));
            }
          }
          // nothing that is left out comes farther than what is drawn
          const end = (own: readonly (number | null)[]) => {
            const read = own.filter((one) => one !== null);
            return read.length === 0 ? null : side === 'above' ? Math.max(...read) : -Math.min(...read);
          };
          const [shown, left] = [[true], [false]].map(([want]) =>
            all.filter((_, i) => drawn.lines.some(({ line }) => line === i) === want).map(end),
          );
          expect(drawn.lines.length).toBe(Math.min(most, all.filter((own) => end(own) !== null).length));
          for (const one of left!)
            if (one !== null) expect(Math.min(...shown!.map((own) => own!))).toBeGreaterThanOrEqual(one);
        },
      ),
    );
  });
});
