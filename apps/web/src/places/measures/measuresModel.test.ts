import { valueWords } from '@zetopsis/core/measures';
import { describe, expect, it } from 'vitest';
import {
  byLast,
  captionsOf,
  chartPoints,
  DRAWN,
  domainOf,
  gapsIn,
  keyOf,
  type MeasureLine,
  NO_PICKS,
  type Picks,
  shownLines,
} from './measuresModel.ts';

const line = (
  labels: Record<string, string>,
  values: readonly (number | null)[],
  more: Partial<MeasureLine> = {},
): MeasureLine => ({
  labels,
  name: null,
  unit: 'bytes',
  points: values.map((value, i) => [1_795_960_000_000 + i * 60_000, value]),
  ...more,
});

describe('lines of a measure', () => {
  it('are named by what differs, as the measure says, or as all of it', () => {
    const two = [line({ cluster: 'seaward', pod: 'a' }, [1]), line({ cluster: 'seaward', pod: 'b' }, [2])];
    expect(captionsOf(two)).toEqual(['a', 'b']);
    expect(captionsOf([two[0]!])).toEqual(['seaward · a']);
    expect(captionsOf([line({}, [1])])).toEqual(['all of it']);
    expect(captionsOf([line({ pod: 'a' }, [1], { name: 'tides on a' }), line({}, [2])])).toEqual([
      'tides on a',
      'all of it',
    ]);
  });
  it('stand largest first, those without a last value behind', () => {
    const [a, b, c] = [line({ n: 'a' }, [9, 1]), line({ n: 'b' }, [1, 5]), line({ n: 'c' }, [8, null])];
    expect(byLast([a, c, b]).map(({ labels }) => labels['n'])).toEqual(['b', 'a', 'c']);
  });
  it('have values in their unit, or as they are asked for', () => {
    expect(valueWords(0.425, '', 'percent')).toBe('43 %');
    expect(valueWords(2 ** 30, 'bytes', null)).toBe('1.00 GiB');
    expect(valueWords(1.5, 'cores', 'cores')).toMatch(/^1\.50/);
    expect(valueWords(7200, 'seconds', null)).toBe('2 h');
    expect(valueWords(null, 'bytes', null)).toBe('no value');
    expect(valueWords(12, 'boats', null)).toBe('12 boats');
  });
  it('are drawn on one grid, a few dozen at most, from 0 on, with what they lie between and what was before', () => {
    const many = Array.from({ length: DRAWN + 5 }, (_, i) => line({ n: String(i) }, [i, null]));
    const { all, drawn } = shownLines(many, NO_PICKS);
    expect([all.length, drawn.length]).toEqual([DRAWN + 5, DRAWN + 5]);
    const points = chartPoints(drawn);
    expect(points).toHaveLength(2);
    expect(points[0]).toMatchObject({ at: 1_795_960_000_000 });
    expect(points[1]?.['value3']).toBeNull();
    expect(points[0]?.[`value${DRAWN}`]).toBeUndefined();
    expect(domainOf(points)[0]).toBe(0);
    expect(domainOf(points)[1]).toBeGreaterThan(DRAWN - 1);
    expect(domainOf(chartPoints(shownLines([line({}, [null])], NO_PICKS).drawn))).toEqual([0, 1]);
    const banded = line({}, [-4], { band: [[1_795_960_000_000, -9, 2]] });
    const own = shownLines([banded], NO_PICKS).drawn;
    const [point] = chartPoints(own, new Map([[keyOf(banded), line({}, [7])]]));
    expect(point).toMatchObject({ value0: -4, band0: [-9, 2], then0: 7 });
    expect(domainOf([point!])[0]).toBe(-9);
    expect(domainOf([point!])[1]).toBeGreaterThan(7);
  });
  it('stay as they are picked: pinned ones first, hidden ones away, one alone, none below a value; inks never move for it', () => {
    const lines = ['a', 'b', 'c'].map((n, i) => line({ n }, [9 - i, 3 - i]));
    const key = (i: number) => keyOf(lines[i]!);
    const names = (picks: Partial<Picks>) =>
      shownLines(lines, { ...NO_PICKS, ...picks }).drawn.map(({ caption }) => caption);
    expect(names({})).toEqual(['a', 'b', 'c']);
    expect(names({ pinned: new Set([key(2)]) })).toEqual(['c', 'a', 'b']);
    expect(names({ hidden: new Set([key(0)]) })).toEqual(['b', 'c']);
    expect(names({ only: key(1) })).toEqual(['b']);
    expect(names({ above: 7.5 })).toEqual(['a', 'b']);
    const inks = (picks: Partial<Picks>) =>
      new Map(shownLines(lines, { ...NO_PICKS, ...picks }).drawn.map(({ caption, ink }) => [caption, ink]));
    expect(inks({ hidden: new Set([key(0)]) }).get('b')).toEqual(inks({}).get('b'));
    expect(new Set([...inks({}).values()].map((ink) => JSON.stringify(ink))).size).toBe(3);
  });
  it('are hatched where none of them has a value', () => {
    const lines = [line({ n: 'a' }, [1, null, null, 4, null]), line({ n: 'b' }, [null, null, null, 4, null])];
    expect(gapsIn(lines)).toEqual([
      { from: 0, to: 0.75 },
      { from: 0.75, to: 1 },
    ]);
    expect(gapsIn([line({}, [1, 2, 3])])).toEqual([]);
    expect(gapsIn([line({}, [null])])).toEqual([]);
    expect(gapsIn([])).toEqual([]);
  });
});
