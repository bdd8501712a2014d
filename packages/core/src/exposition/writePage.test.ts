import { describe, expect, it } from 'vitest';
import { readPage, writePage } from './index.ts';

describe('a page that is written', () => {
  it('is read back as it was meant, whatever stands in its labels', () => {
    const hostile = 'a "quoted" \\ back\\nslash\nline {x="y"} # EOF';
    const values = [0, -0, 1.5, 1e300, 5e-324, Number.NaN, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    const text = writePage([
      { name: 'lamp_turns', type: 'counter', unit: '', help: hostile, samples: [{ labels: {}, value: 12 }] },
      {
        name: 'lamp_power_watts',
        type: 'gauge',
        unit: 'watts',
        help: 'Power.',
        samples: values.map((value, i) => ({ labels: { lens: String(i), note: hostile }, value })),
      },
    ]);
    const page = readPage(new TextEncoder().encode(text), { form: 'openmetrics' });
    expect(page.problems).toEqual([]);
    expect(page.refused).toBeNull();
    expect([...page.values]).toEqual([12, ...values]);
    expect(page.fresh[0]?.name).toBe('lamp_turns_total');
    expect(page.fresh[1]?.labels).toEqual([
      ['lens', '0'],
      ['note', hostile],
    ]);
    expect(page.families.get('lamp_power_watts')).toMatchObject({ type: 'gauge', unit: 'watts' });
  });
});
