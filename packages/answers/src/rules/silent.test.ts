import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { silentOccurrences } from './silent.ts';

const LAST = 40;
const span = {
  from: fc.nat(LAST),
  to: fc.option(fc.integer({ min: 1, max: LAST + 5 })),
  reason: fc.constantFrom('refused', 'slow'),
};
const page = fc
  .record({ ...span, cluster: fc.constantFrom('seaward', 'quay', null), name: fc.constantFrom('a', 'b', 'c') })
  .filter(({ from, to }) => to === null || to > from);
/** One after the other, as one cluster turns. */
const turns = (cluster: string) =>
  fc.uniqueArray(fc.nat(LAST), { maxLength: 6 }).map((moments) => {
    const sorted = moments.sort((a, b) => a - b);
    return sorted.flatMap((from, i) =>
      i % 2 === 1 ? [] : [{ cluster, from, to: sorted[i + 1] ?? null, reason: 'no answer' }],
    );
  });
const isAt = (one: { readonly from: number; readonly to: number | null }, at: number) =>
  one.from <= at && (one.to === null || one.to > at);

describe('what was silent', () => {
  it('is at each moment what was: each cause once, of a blind cluster nothing but that', () => {
    fc.assert(
      fc.property(turns('seaward'), fc.array(page, { maxLength: 12 }), (clusters, pages) => {
        const found = [...silentOccurrences(clusters, pages)];
        for (let at = 0; at <= LAST + 6; at++) {
          const blind = clusters.filter((one) => isAt(one, at)).map(({ cluster }) => cluster);
          const causes = pages
            .filter((one) => isAt(one, at) && !blind.includes(one.cluster ?? ''))
            .map(({ cluster, reason }) => `pages ${cluster} ${reason}`);
          const now = found.filter((one) => isAt(one, at));
          expect(now.map(({ key }) => key).sort()).toEqual(
            [...new Set([...blind.map((cluster) => `cluster ${cluster}`), ...causes])].sort(),
          );
          for (const { key, severity, path } of now)
            expect([severity, path.is]).toEqual(
              key.startsWith('cluster') ? ['critical', 'cluster'] : ['warning', 'everything'],
            );
        }
      }),
    );
  });
  it('names the first page and how many others were silent with it', () => {
    const pages = ['a', 'b', 'c'].map((name, i) => ({ cluster: 'quay', name, from: i, to: 10 + i, reason: 'refused' }));
    const later = { cluster: 'quay', name: 'a', from: 50, to: null, reason: 'refused' };
    const found = [...silentOccurrences([], [...pages, later])];
    expect(found.map(({ name, from, to, reason }) => [name, from, to, reason])).toEqual([
      ['quay › a and 2 more', 0, 12, 'refused'],
      ['quay › a', 50, null, 'refused'],
    ]);
  });
});
