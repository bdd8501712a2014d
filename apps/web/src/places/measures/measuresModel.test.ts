import { describe, expect, it } from 'vitest';
import {
  byLast,
  captionsOf,
  chartPoints,
  csvOf,
  DRAWN,
  domainOf,
  gapsIn,
  type MeasureLine,
  valueWords,
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
  it('are drawn on one grid, a few dozen at most, from 0 on', () => {
    const many = Array.from({ length: DRAWN + 5 }, (_, i) => line({ n: String(i) }, [i, null]));
    const points = chartPoints(many);
    expect(points).toHaveLength(2);
    expect(points[0]).toMatchObject({ at: 1_795_960_000_000, value3: 3 });
    expect(points[1]?.['value3']).toBeNull();
    expect(points[0]?.[`value${DRAWN}`]).toBeUndefined();
    expect(domainOf(many)[0]).toBe(0);
    expect(domainOf(many)[1]).toBeGreaterThan(DRAWN - 1);
    expect(domainOf([line({}, [null])])).toEqual([0, 1]);
    expect(domainOf([line({}, [-4, 2])])[0]).toBe(-4);
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
  it('are taken away as CSV, with units, whole, and no cell that a spreadsheet would run', () => {
    expect(csvOf([line({ pod: '=cmd' }, [1.23456789, null]), line({ pod: 'b' }, [2, 3])])).toBe(
      "time,'=cmd (bytes),b (bytes)\r\n2026-11-29T13:46:40.000Z,1.23456789,2\r\n2026-11-29T13:47:40.000Z,,3\r\n",
    );
  });
});
