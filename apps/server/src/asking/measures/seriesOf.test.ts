import { describe, expect, it } from 'vitest';
import type { ReadingOf } from '../../keeping/store/windows.ts';
import { samplesBefore, seriesOf, spacingOf } from './seriesOf.ts';

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

describe('what is read before a window', () => {
  const asked = async (times: readonly number[], from: number, begin: number) => {
    const windows: ReadingOf[] = [];
    const samples = {
      read: async (window: ReadingOf) => {
        windows.push(window);
        const own = times.filter((at) => at >= window.from && at <= window.to);
        return new Map([[1, { times: own, values: own }]]);
      },
    };
    const window = { ids: [1], from, to: 100_000 };
    const read = await samplesBefore(samples as never, window, { begin, everyOf: () => 10 });
    return { windows: windows.length, first: read.get(1)?.times[0] };
  };
  it('is more of what lies further apart than it is read, and of what there is little of', async () => {
    // enough before it
    expect(await asked(every(10, 9000), 9940, 10_000)).toEqual({ windows: 1, first: 9940 });
    // a past that was brought in, every 500
    expect(await asked(every(500, 200), 9940, 10_000)).toEqual({ windows: 2, first: 0 });
    expect(await asked([400, 20_000], 9940, 10_000)).toEqual({ windows: 2, first: 400 });
    expect(await asked([], 9940, 10_000)).toEqual({ windows: 2, first: undefined });
  });
  it('is not more of what began within the window, and is read as often as it should be', async () => {
    expect(await asked(every(10, 4000, 50_000), 9940, 10_000)).toEqual({ windows: 1, first: 50_000 });
  });
});
