import fc from 'fast-check';
import { expect, it } from 'vitest';
import { LabelIndex, type Labels, seriesKey } from './index.ts';

const labels = fc
  .dictionary(
    fc.constantFrom('a', 'b', 'c'),
    fc.string({ minLength: 1, maxLength: 3, unit: fc.constantFrom('x', 'y', '\u0001', '\u0002', '\u0003', '1') }),
  )
  .map((record): Labels => Object.entries(record).sort(([x], [y]) => (x < y ? -1 : 1)));

it('two series have one key only when they are the same', () => {
  fc.assert(
    fc.property(labels, labels, (one, other) => {
      expect(seriesKey('m', one) === seriesKey('m', other)).toBe(JSON.stringify(one) === JSON.stringify(other));
    }),
    { numRuns: 2000 },
  );
});

it('the index finds what looking at every series finds', () => {
  const value = fc.constantFrom('x', 'y', 'z');
  const series = fc.array(fc.record({ metric: fc.constantFrom('m', 'n'), a: value, b: value }), { maxLength: 60 });
  fc.assert(
    fc.property(
      series,
      fc.boolean(),
      fc.constantFrom('m', 'n'),
      value,
      fc.uniqueArray(value),
      (all, backwards, metric, a, bs) => {
        const index = new LabelIndex();
        const numbered = all.map((one, i) => ({ ...one, id: i + 1 }));
        for (const one of backwards ? [...numbered].reverse() : numbered)
          index.add(one.id, one.metric, [
            ['a', one.a],
            ['b', one.b],
          ]);
        const found = index.select(metric, [
          { label: 'a', is: a },
          { label: 'b', isOneOf: new Set(bs) },
        ]);
        expect(found).toEqual(
          numbered.filter((one) => one.metric === metric && one.a === a && bs.includes(one.b)).map(({ id }) => id),
        );
        expect(index.select(metric)).toEqual(numbered.filter((one) => one.metric === metric).map(({ id }) => id));
      },
    ),
  );
});
