import { describe, expect, it } from 'vitest';
import { type MeasureLine, NO_PICKS, shownLines } from '../measuresModel.ts';
import { bandsOf, examplesApart, heatOf, pictureOf, spreadAt, traceOf } from './pictureModel.ts';

const AT = 1_795_960_000_000;
const line = (
  labels: Record<string, string>,
  values: readonly (number | null)[],
  more: Partial<MeasureLine> = {},
): MeasureLine => ({
  labels,
  name: null,
  unit: 'seconds',
  points: values.map((value, i) => [AT + i * 60_000, value]),
  ...more,
});
const histogram = (
  counts: readonly (readonly (number | null)[])[],
  bounds: readonly (number | null)[] = [1, 5, null],
) =>
  line(
    {},
    counts[0]!.map(() => null),
    { buckets: { bounds: [...bounds], counts: counts.map((one) => [...one]), exponential: false } },
  );
const drawn = (...lines: MeasureLine[]) => shownLines(lines, NO_PICKS).drawn;
const words = (value: number | null) => `${value} s`;

describe('pictures of a measure', () => {
  it('suit what is drawn: buckets have no lines, lines may be anything', () => {
    expect(pictureOf('', [histogram([[1], [1], [1]])])).toBe('heat');
    expect(pictureOf('lines', [histogram([[1], [1], [1]])])).toBe('heat');
    expect(pictureOf('bands', [histogram([[1], [1], [1]])])).toBe('bands');
    expect(pictureOf('', [line({}, [1])])).toBe('lines');
    expect(pictureOf('nonsense', [line({}, [1])])).toBe('lines');
  });
  it('a heat map tells observations between bounds, of all lines together, and where nothing was read', () => {
    const heat = heatOf(
      drawn(
        histogram([
          [4, null],
          [6, null],
          [10, null],
        ]),
        histogram([
          [1, 0],
          [1, 0],
          [1, 3],
        ]),
      ),
      words,
    );
    expect(heat.rows).toEqual(['up to 1 s', '1 s to 5 s', 'above 5 s']);
    expect(heat.cells).toEqual([
      [5, 0],
      [2, 0],
      [4, 3],
    ]);
    expect(heat.most).toBe(5);
    const other = heatOf(drawn(histogram([[4], [6], [10]]), histogram([[1], [2]], [2, null])), words);
    expect(other.left).toBe(1);
    expect(heatOf(drawn(line({ n: 'a' }, [1, null])), words).cells).toEqual([[1, null]]);
  });
  it('a heat map of a long window has columns that can be seen, each the mean of its moments', () => {
    const heat = heatOf(
      drawn(
        line(
          {},
          Array.from({ length: 1000 }, (_, i) => i),
        ),
      ),
      words,
    );
    expect(heat.times.length).toBeLessThanOrEqual(110);
    expect(heat.cells[0]![0]).toBeCloseTo(4.5);
    expect(heat.times.at(-1)).toBe(AT + 999 * 60_000);
  });
  it('a distribution counts every line once, and names its percentiles', () => {
    const lines = Array.from({ length: 101 }, (_, i) => line({ n: String(i) }, [i]));
    const { steps, below } = spreadAt(drawn(...lines), 0, words);
    expect(steps.reduce((sum, { count }) => sum + count, 0)).toBe(101);
    expect(below.map(({ value }) => value)).toEqual([50, 90, 99]);
    expect(spreadAt(drawn(line({}, [3])), 0, words).steps).toEqual([{ name: '3 s', count: 1 }]);
    expect(spreadAt(drawn(line({}, [null])), 0, words).steps).toEqual([]);
    const own = spreadAt(drawn(histogram([[4], [6], [10]])), 0, words);
    expect(own.steps.map(({ count }) => count)).toEqual([4, 2, 4]);
    expect(own.below[2]).toMatchObject({ value: 5, atLeast: true });
  });
  it('bands lie in order: of buckets as their percentiles, of lines across them', () => {
    const [band] = bandsOf(drawn(histogram([[4], [8], [10]])));
    expect(band!.half).toBeCloseTo(2);
    expect(band!.wide![0]).toBeLessThanOrEqual(band!.wide![1]);
    const [across] = bandsOf(drawn(...Array.from({ length: 11 }, (_, i) => line({ n: String(i) }, [i]))));
    expect(across).toMatchObject({ half: 5, wide: [1, 9], upper: [9, 10] });
    expect(bandsOf(drawn(line({}, [null])))[0]).toMatchObject({ half: null, wide: null });
  });
  it('an example leads to the trace that it names', () => {
    expect(traceOf({ at: AT, value: 1, labels: { trace_id: 'abc' } })).toBe('abc');
    expect(traceOf({ at: AT, value: 1, labels: { quay: 'north' } })).toBeNull();
  });
  it('examples that lie in the picture are drawn apart, however many there are', () => {
    const all = Array.from({ length: 500 }, (_, i) => ({ at: AT + i * 200, value: (i % 25) / 10, labels: {} }));
    const shown = examplesApart(all, { from: AT, to: AT + 90_000, top: 2 });
    expect(shown.length).toBeGreaterThan(100);
    expect(shown.length).toBeLessThan(all.length);
    for (const { at, value } of shown) expect([at <= AT + 90_000, value <= 2]).toEqual([true, true]);
    expect(examplesApart([...shown, ...shown], { from: AT, to: AT + 90_000, top: 2 })).toEqual(shown);
    const [one] = all;
    expect(examplesApart([one!, { ...one!, value: 1.9 }], { from: AT, to: AT, top: 2 })).toHaveLength(2);
  });
});
