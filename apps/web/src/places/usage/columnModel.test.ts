import type { UsageAnswer, UsageRow } from '@zetopsis/contract';
import { describe, expect, it } from 'vitest';
import { rowOf } from '../../state/rowFixture.ts';
import {
  columnsFor,
  cutsFrom,
  mirrorScale,
  movePath,
  narrowCount,
  rowInWords,
  rowShare,
  sortRows,
  sortsFor,
  swingInWords,
  swingOf,
  swingShort,
} from './columnModel.ts';

const figures = (use: number | null, limit: number | null, tightness: number | null) => ({
  use,
  mean: use,
  peak: use,
  request: 1,
  limit,
  limitIs: limit === null ? ('none' as const) : ('limit' as const),
  unlimited: limit === null ? 'main' : null,
  tightness,
  heading: null,
});
const row = (name: string, use: number | null, tightness: number | null, more: Partial<UsageRow> = {}): UsageRow =>
  rowOf(name, tightness, {
    usage: { cpu: figures(use, tightness === null ? null : 2, tightness), memory: figures(null, null, null) },
    ...more,
  });
const rows = [
  row('loose', 0.2, 0.1),
  row('free', 5, null),
  row('tight', 1.9, 0.95),
  row('gone', 9, 0.99, { present: false }),
  row('idle', null, null),
];
const names = (list: readonly UsageRow[]) => list.map(({ name }) => name);

describe('order', () => {
  it('by tightness: what has none after what has, by use; what is gone last', () => {
    expect(names(sortRows(rows, 'cpu', 'tightness'))).toEqual(['tight', 'loose', 'free', 'idle', 'gone']);
  });
  it('by use and by name', () => {
    expect(names(sortRows(rows, 'cpu', 'use'))).toEqual(['free', 'tight', 'loose', 'idle', 'gone']);
    expect(names(sortRows(rows, 'cpu', 'name'))).toEqual(['free', 'idle', 'loose', 'tight', 'gone']);
  });
  it('does not touch the list it was given', () => {
    const before = names(rows);
    sortRows(rows, 'cpu', 'name');
    expect(names(rows)).toEqual(before);
  });
});

describe('comparing two windows', () => {
  const compared = (mean: number) => ({
    cpu: { use: mean, mean, peak: mean },
    memory: { use: null, mean: null, peak: null },
  });
  const both = (name: string, now: number, then: number) =>
    row(name, now, 0.5, { against: compared(then), pairing: 'both' });
  const fresh = row('fresh', 3, 0.5, { pairing: 'new' });
  const gone = row('gone', null, null, { pairing: 'gone', present: false, against: compared(0.5) });
  it('the swing is what one used more than the other; new and gone count from nothing', () => {
    expect([both('a', 2, 1.5), fresh, gone].map((one) => swingOf(one, 'cpu'))).toEqual([0.5, 3, -0.5]);
    expect(swingOf(row('plain', 1, 0.5), 'cpu')).toBeNull();
    expect(swingOf(both('a', 2, 1), 'memory')).toBeNull();
  });
  it('says it shortly and in full', () => {
    expect(
      [both('a', 2, 1.5), both('b', 1, 2), both('c', 1, 1), both('d', 30, 1), fresh, gone].map((one) =>
        swingShort(one, 'cpu'),
      ),
    ).toEqual(['+33 %', '−50 %', '± 0', '× 30', 'new', 'gone']);
    expect(swingShort(both('e', 1, 0), 'cpu')).toBe('+1.00 core');
    expect(swingInWords(both('a', 2, 1.5), 'cpu')).toBe(
      '2.00 cores on average, 1.50 cores in the window compared with: +33 %',
    );
    expect(swingInWords(row('plain', 1, 0.5), 'cpu')).toBeNull();
  });
  it('rows sort by swing, whichever way it goes, on one scale', () => {
    const list = [both('small', 1, 1.1), fresh, both('fell', 1, 3), gone];
    expect(names(sortRows(list, 'cpu', 'swing'))).toEqual(['fresh', 'fell', 'gone', 'small']);
    expect(mirrorScale(list, 'cpu')).toBe(3);
    expect(sortsFor(false)).not.toContain('swing');
  });
});

it('the share of others stands last and is never chosen by keys', () => {
  const others = row('~others', 9, 0.99, { kind: 'others', name: 'others' });
  expect(names(sortRows([others, ...rows], 'cpu', 'use')).at(-1)).toBe('others');
  expect(movePath(['c', 'n'], [[row('c', 1, 1)], [row('n', 1, 1), others]], 'down')).toBeNull();
  expect(movePath(['c'], [[row('c', 1, 1)], [others]], 'right')).toBeNull();
  expect(rowInWords(others, 'cpu')).toMatch(/^others, as one share\./);
});

describe('moving by keys', () => {
  const columns = [[row('c1', 1, 1), row('c2', 1, 1)], [row('n1', 1, 1)], []];
  it('goes up, down, in and out, and stops at the ends', () => {
    expect(movePath([], columns, 'down')).toEqual(['c1']);
    expect(movePath(['c1'], columns, 'down')).toEqual(['c2']);
    expect(movePath(['c2'], columns, 'down')).toBeNull();
    expect(movePath(['c1'], columns, 'up')).toBeNull();
    expect(movePath(['c1'], columns, 'right')).toEqual(['c1', 'n1']);
    expect(movePath(['c1', 'n1'], columns, 'right')).toBeNull();
    expect(movePath(['c1', 'n1'], columns, 'left')).toEqual(['c1']);
    expect(movePath(['c1'], columns, 'left')).toBeNull();
  });
  it('starts anew where the chosen one is gone', () => {
    expect(movePath(['vanished'], columns, 'down')).toEqual(['c1']);
  });
});

it('an older answer lends only the columns that belong to the path', () => {
  const column = { level: 'cluster' as const, rows, left: 0, summary: '' };
  const answer: UsageAnswer = {
    window: { from: 0, to: 1, live: true },
    path: ['a', 'b'],
    against: null,
    of: null,
    columns: [column, column, column],
    blind: [],
  };
  expect(columnsFor(answer, ['a', 'b'])).toHaveLength(3);
  expect(columnsFor(answer, ['a', 'x'])).toHaveLength(2);
  expect(columnsFor(answer, ['y'])).toHaveLength(1);
  expect(columnsFor(undefined, [])).toEqual([]);
});

it('as many first columns are narrow as must be', () => {
  expect([
    narrowCount(3, 876),
    narrowCount(4, 876),
    narrowCount(5, 876),
    narrowCount(5, 1500),
    narrowCount(5, 0),
  ]).toEqual([0, 0, 2, 0, 4]);
});

it('cuts are the children’s uses in the order they stand in', () => {
  expect(cutsFrom({ level: 'pod', rows, left: 0, summary: '' }, 'cpu', 'tightness')).toEqual([1.9, 0.2, 5, 9]);
});

it('a row says everything in words', () => {
  const words = rowInWords(
    row('booking-front', 1.9, 0.95, { severity: 'critical', finding: 'It fails.', ready: 3, desired: 5 }),
    'cpu',
  );
  expect(words).toBe(
    'booking-front. CPU: 1.90 cores in use, 95 % of its limit of 2.00 cores; 95 % of the window below 1.90 cores; 1.00 core asked for. critical: It fails.. 3 of 5 ready',
  );
  expect(rowShare(row('free', 1, null), 'cpu')).toBe('no limit');
});
