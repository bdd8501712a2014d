import { describe, expect, it } from 'vitest';
import { seriesOf, spacingOf } from './seriesOf.ts';

const every = (apart: number, count: number, from = 0) => Array.from({ length: count }, (_, i) => from + i * apart);

describe('how far apart samples lie', () => {
  it('is the interval of their endpoint, though some are late or lost', () => {
    const late = every(10, 100).map((time, i) => time + (i % 7));
    expect(spacingOf(late, 10)).toBe(10);
    expect(
      spacingOf(
        late.filter((_, i) => i % 5 !== 0),
        10,
      ),
    ).toBe(10);
    expect(spacingOf([], 10)).toBe(10);
    expect(spacingOf([0, 500], 10)).toBe(10);
  });
  it('is that of a past that was brought in, where most of it is that', () => {
    expect(spacingOf(every(30, 200), 10)).toBe(30);
    expect(spacingOf([...every(30, 200), ...every(10, 50, 6000)], 10)).toBe(30);
    expect(spacingOf([...every(30, 20), ...every(10, 200, 600)], 10)).toBe(10);
    const { interval } = seriesOf({
      labels: {},
      found: { times: every(300, 50), values: every(1, 50) },
      factor: 1,
      interval: 15,
      bucket: 0,
      from: 0,
      begun: null,
    });
    expect(interval).toBe(300);
  });
});
