import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Samples } from '../samples/index.ts';
import {
  boundBy,
  emptyNode,
  figuresOf,
  figuresOfCount,
  type Grid,
  linesOfSeries,
  type ProcessSeries,
  presenceLines,
  processesAt,
  SummedTree,
  sumOfLines,
  type UsageNode,
} from './index.ts';

const STEP = 15_000;
const grid: Grid = { start: 1_700_000_000_000, step: STEP, count: 21 };
const every = (values: readonly number[], start = grid.start): Samples => ({
  times: values.map((_, i) => start + i * STEP),
  values,
});
const level = (value: number, size: number | null = null) =>
  linesOfSeries({
    samples: every(Array(21).fill(value)),
    grid,
    interval: STEP,
    counts: false,
    size: size === null ? null : every(Array(21).fill(size)),
  });

describe('one series', () => {
  it('of what counts up is its growth per second; without a size it is open', () => {
    const own = figuresOf(
      linesOfSeries({
        samples: every(Array.from({ length: 21 }, (_, i) => i * 300)),
        grid,
        interval: STEP,
        counts: true,
      }),
      'size',
    );
    expect(own).toMatchObject({ use: 20, peak: 20, limit: null, limitIs: 'none', tightness: null, request: null });
  });
  it('of a level is its value against its size', () => {
    expect(figuresOf(level(30, 40), 'size')).toMatchObject({ use: 30, limit: 40, limitIs: 'size', tightness: 0.75 });
  });
  it('that stops being read is unknown from then on, and so is every sum with it', () => {
    const gone = linesOfSeries({ samples: every([5, 5, 5, 5, 5]), grid, interval: STEP, counts: false });
    expect(gone.use.at(-1)).toBeNaN();
    const both = sumOfLines(grid, [gone, level(7)]);
    expect([both.use[3], both.use.at(-1), both.read.at(-1)]).toEqual([12, Number.NaN, 7]);
  });
});

describe('presence', () => {
  it('counts what was there at each moment', () => {
    const lines = sumOfLines(grid, [
      presenceLines(grid, 0, null),
      presenceLines(grid, grid.start + 10 * STEP, null),
      presenceLines(grid, 0, grid.start + 15 * STEP),
    ]);
    expect([lines.use[0], lines.use[12], lines.use.at(-1)]).toEqual([2, 3, 2]);
    expect(figuresOf(boundBy(lines, 4), 'allocatable')).toMatchObject({ use: 2, limit: 4, limitIs: 'allocatable' });
    expect(figuresOf(boundBy(boundBy(lines, 4), null), 'allocatable').limit).toBeNull();
  });
});

it('a mere count has no history, and is tight against what bounds it', () => {
  expect(figuresOfCount(3, null, 'time')).toMatchObject({ use: 3, mean: 3, peak: null, limitIs: 'none' });
  expect(figuresOfCount(0.3, 1, 'time')).toMatchObject({ tightness: 0.3, limitIs: 'time' });
  expect(figuresOfCount(null, 1, 'time')).toMatchObject({ use: null, tightness: null });
});

describe('a tree', () => {
  const node = (of: UsageNode['level'], key: string, children: UsageNode[] = []): UsageNode => ({
    ...emptyNode({ level: of, identity: { name: key, key, uid: of === 'pod' ? key : null }, grid, present: true }),
    children,
  });
  it('sums its pods at every level, whatever lies between; what is not read counts nothing', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.option(fc.integer({ min: 0, max: 1000 })), { minLength: 1, maxLength: 5 }), {
          minLength: 1,
          maxLength: 5,
        }),
        (workloads) => {
          const values = new Map<string, number>();
          const tree = node(
            'namespace',
            'n',
            workloads.map((pods, w) =>
              node(
                'workload',
                `w${w}`,
                pods.map((value, p) => {
                  if (value !== null) values.set(`w${w}p${p}`, value);
                  return node('pod', `w${w}p${p}`);
                }),
              ),
            ),
          );
          const sums = new SummedTree(grid, (uid) => {
            const value = values.get(uid);
            return value === undefined ? undefined : level(value);
          });
          const total = (all: readonly (number | null)[]) => {
            const known = all.filter((value) => value !== null);
            return known.length === 0 ? undefined : known.reduce((sum, value) => sum + value, 0);
          };
          expect(sums.of(tree)?.use.at(-1)).toBe(total(workloads.flat()));
          tree.children.forEach((workload, w) => {
            expect(sums.of(workload)?.use.at(-1)).toBe(total(workloads[w]!));
          });
          expect(sums.ofPods(values.keys())?.use.at(-1)).toBe(total(workloads.flat()));
        },
      ),
      { numRuns: 50 },
    );
  });
});

describe('processes', () => {
  const series = (name: string, pid: string, what: ProcessSeries['what'], samples: Samples): ProcessSeries => ({
    of: '',
    name,
    pid,
    what,
    samples,
  });
  it('are told by what they spend, times in several modes in sum; those that ended are not told', () => {
    const counter = (perSecond: number) => every(Array.from({ length: 21 }, (_, i) => i * 15 * perSecond));
    const all = processesAt(
      [
        series('lamp', '7', 'memory', every(Array(21).fill(100))),
        series('horn', '9', 'cpu', counter(0.5)),
        series('horn', '9', 'cpu', counter(0.25)),
        series('horn', '9', 'threads', every(Array(21).fill(4))),
        series('bell', '3', 'memory', every([1, 1, 1])),
      ],
      grid,
      STEP,
    );
    expect(all).toEqual([
      { of: '', name: 'horn', pid: '9', cpu: 0.75, memory: null, threads: 4, files: null },
      { of: '', name: 'lamp', pid: '7', cpu: null, memory: 100, threads: null, files: null },
    ]);
  });
});
