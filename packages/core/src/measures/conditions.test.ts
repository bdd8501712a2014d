import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { SeriesTable } from '../series/index.ts';
import { indexedOf, matcher } from './conditions.ts';
import type { Condition } from './tree.ts';

describe('what an index of labels can answer of conditions', () => {
  it('leaves out no series that fits, whatever is asked and whatever there is', () => {
    const text = fc.constantFrom('', 'north', 'south', 'east');
    const label = fc.constantFrom('quay', 'berth', 'cluster');
    const condition = fc.oneof(
      fc.record({ label, is: fc.constantFrom('is' as const, 'is not' as const, 'contains' as const), text }),
      fc.record({
        label,
        is: fc.constantFrom('is any of' as const, 'is none of' as const),
        texts: fc.array(text, { minLength: 1, maxLength: 3 }),
      }),
      fc.record({ label, is: fc.constantFrom('is present' as const, 'is missing' as const) }),
    ) as fc.Arbitrary<Condition>;
    const labels = fc.dictionary(fc.constantFrom('quay', 'berth'), fc.constantFrom('north', 'south', 'east'));
    fc.assert(
      fc.property(fc.array(labels, { maxLength: 12 }), fc.array(condition, { maxLength: 4 }), (all, where) => {
        const table = new SeriesTable();
        for (const [id, own] of all.entries())
          table.add({ id, endpoint: id, metric: 'tide', labels: Object.entries(own).sort(), cumulative: false });
        const fits = matcher(where);
        // as a measure has them, the cluster among them
        const seen = (id: number) => ({ cluster: 'north', ...all[id] });
        const by = (ids: readonly number[]) => ids.filter((id) => fits(seen(id)));
        expect(by(table.select('tide', indexedOf(where)))).toEqual(by(all.map((_, id) => id)));
      }),
    );
  });
});
