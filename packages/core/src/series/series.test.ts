import fc from 'fast-check';
import { expect, it } from 'vitest';
import { type Labels, SeriesTable, seriesKey } from './index.ts';

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

const value = fc.constantFrom('x', 'y', 'z', '');
const entry = fc.record({ metric: fc.constantFrom('m', 'n'), endpoint: fc.nat(2), a: value, b: value });
const labelsOf = ({ a, b }: { a: string; b: string }): Labels =>
  (
    [
      ['a', a],
      ['b', b],
    ] as const
  ).filter(([, text]) => text !== '');

it('the table finds what looking at every series finds, by labels and by identity', () => {
  fc.assert(
    fc.property(
      fc.array(entry, { maxLength: 60 }),
      fc.boolean(),
      fc.constantFrom('m', 'n'),
      value,
      fc.uniqueArray(value),
      fc.nat(60),
      (all, backwards, metric, a, bs, gone) => {
        const table = new SeriesTable();
        const unique = new Map(all.map((one) => [JSON.stringify(one), one]));
        const numbered = [...unique.values()].map((one, i) => ({ ...one, id: i * 3 + 1, labels: labelsOf(one) }));
        for (const one of backwards ? [...numbered].reverse() : numbered)
          table.add({ ...one, cumulative: one.a === 'x' });
        const removed = numbered[gone];
        if (removed) table.remove(removed.id);
        const left = numbered.filter((one) => one !== removed);
        expect(table.size).toBe(left.length);
        expect(
          table.select(metric, [
            { label: 'a', is: a },
            { label: 'b', isOneOf: new Set(bs) },
          ]),
        ).toEqual(
          a === ''
            ? []
            : left
                .filter((one) => one.metric === metric && one.a === a && one.b !== '' && bs.includes(one.b))
                .map(({ id }) => id),
        );
        const came = [...new Set(numbered.map((one) => one.metric))];
        expect(Array.from(came, (_, i) => table.metricAt(i)).sort()).toEqual(came.sort());
        expect(table.metricAt(came.length)).toBeUndefined();
        expect(table.select(metric)).toEqual(left.filter((one) => one.metric === metric).map(({ id }) => id));
        for (const one of numbered) {
          const known = left.includes(one);
          expect(table.find(one.endpoint, one.metric, one.labels)).toBe(known ? one.id : undefined);
          expect(table.has(one.id)).toBe(known);
          expect(table.labels(one.id)).toEqual(known ? one.labels : []);
          expect(table.label(one.id, 'b')).toBe(known ? one.b : '');
          expect(table.isCumulative(one.id)).toBe(known && one.a === 'x');
        }
        for (const endpoint of [0, 1, 2])
          expect(table.countOf(endpoint)).toBe(left.filter((one) => one.endpoint === endpoint).length);
      },
    ),
  );
});

it('the table grows, forgets an endpoint, and takes a series again under a new number', () => {
  const table = new SeriesTable();
  const labels = (i: number): Labels => [
    ['pod', `p${i % 700}`],
    ['turn', `${i}`],
  ];
  for (let i = 1; i <= 5000; i++)
    table.add({ id: i, endpoint: i % 5, metric: `m${i % 3}`, labels: labels(i), cumulative: false });
  expect(table.size).toBe(5000);
  for (let i = 1; i <= 5000; i += 97) expect(table.find(i % 5, `m${i % 3}`, labels(i))).toBe(i);
  table.forget(2);
  expect(table.size).toBe(4000);
  expect(table.find(2, 'm2', labels(2))).toBeUndefined();
  table.add({ id: 9000, endpoint: 2, metric: 'm2', labels: labels(2), cumulative: true });
  expect(table.find(2, 'm2', labels(2))).toBe(9000);
  expect(table.select('m2', [{ label: 'turn', is: '2' }])).toEqual([9000]);
});
