import { PageMemory, readPage } from '@zetopsis/core/exposition';
import { describe, expect, it } from 'vitest';
import type { SampleStore } from './sample.store.ts';
import { SeriesNumbers } from './seriesNumbers.ts';
import type { StoreLimits } from './storeLimits.ts';

const page = (memory: PageMemory, text: string) => readPage(new TextEncoder().encode(text), { form: 'plain', memory });
const TEXT = 'lamp_turns 1\nlamp_power{lens="upper"} 2\ndebug_a 3\n';

/** A database that fails as often as it is told to. */
function numbers(failures: number) {
  let next = 1;
  let left = failures;
  const store = {
    addSeries: async (_: number, series: readonly unknown[]) => {
      if (left-- > 0) throw new Error('the database is away');
      return series.map(() => next++);
    },
    addLayout: async () => 1,
  };
  const limits = { series: { perEndpoint: 100, perTeam: 100, inAll: 100 } } as StoreLimits;
  return new SeriesNumbers(store as unknown as SampleStore, limits); // what is asked of them
}

describe('numbers of series', () => {
  it('are given once the database is back, though the page stays the same', async () => {
    const own = numbers(2);
    const memory = new PageMemory();
    for (let reading = 0; reading < 2; reading++)
      await expect(own.shapeOf({ endpoint: 1, page: page(memory, TEXT), memory, at: 0 })).rejects.toThrow('away');
    const shape = await own.shapeOf({ endpoint: 1, page: page(memory, TEXT), memory, at: 0 });
    expect([...shape.layout.ids]).toEqual([1, 2, 3]);
    expect(shape.kept).toBeNull();
    expect(own.refused(1)).toBeNull();
  });
  it('are given to series as they are dressed, and to none that are dropped', async () => {
    const own = numbers(0);
    own.dress(1, { attach: { quay: 'north' }, drop: [{ metric: 'debug_*', label: '', is: '' }] });
    const memory = new PageMemory();
    for (let reading = 0; reading < 3; reading++) {
      const shape = await own.shapeOf({ endpoint: 1, page: page(memory, TEXT), memory, at: 0 });
      expect([...shape.layout.ids]).toEqual([1, 2]);
      expect([...(shape.kept ?? [])]).toEqual([0, 1]);
    }
    expect(own.table.labels(2)).toEqual([
      ['lens', 'upper'],
      ['quay', 'north'],
    ]);
    // a drop rule is no limit: nothing is past one
    expect(own.refused(1)).toBeNull();
    expect([...own.metricsOf(1).keys()]).toEqual(['lamp_turns', 'lamp_power']);
  });
});
