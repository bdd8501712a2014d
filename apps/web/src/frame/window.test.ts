import type { TapeAnswer } from '@zetopsis/contract';
import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { groupMarks, leading, loadPath, neverReadUntil, ticksOf, timeAt, xOf } from './tapeModel.ts';
import { readView, writeView } from './useView.ts';
import { readWindow, resizeWindow, stepWindow, tapeSpan, windowInWords, writeWindow } from './windowModel.ts';

const NOW = 1_795_572_000_000;
const search = (record: object) =>
  new URLSearchParams(Object.entries(record).filter(([, value]) => value !== undefined));

describe('the window', () => {
  it('is read back from the address as it was written', () => {
    const moving = fc
      .constantFrom(15 * MINUTE, HOUR, 3 * HOUR, DAY, 30 * DAY, 17 * MINUTE)
      .map((length) => ({ length }));
    const still = fc
      .tuple(fc.integer({ min: 1, max: NOW }), fc.integer({ min: MINUTE, max: 89 * DAY }))
      .map(([from, length]) => ({ from, to: from + length }));
    fc.assert(
      fc.property(fc.oneof(moving, still), (window) => {
        expect(readWindow(search(writeWindow(window)))).toEqual(window);
      }),
    );
  });
  it('is the default where the address is nonsense', () => {
    for (const bad of [
      'window=5y',
      'window=0m',
      'from=5&to=1',
      'from=x&to=y',
      'window=9999d',
      'from=1&to=99999999999999',
    ])
      expect(readWindow(new URLSearchParams(bad))).toEqual({ length: 3 * HOUR });
  });
  it('steps by its own length, and forth beyond now is now', () => {
    const back = stepWindow({ length: HOUR }, -1, NOW);
    expect(back).toEqual({ from: NOW - 2 * HOUR, to: NOW - HOUR });
    expect(stepWindow(back, 1, NOW)).toEqual({ length: HOUR });
    expect(stepWindow(back, -1, NOW)).toEqual({ from: NOW - 3 * HOUR, to: NOW - 2 * HOUR });
  });
  it('keeps its end when its length changes', () => {
    expect(resizeWindow({ from: 0, to: 5 * HOUR }, HOUR)).toEqual({ from: 4 * HOUR, to: 5 * HOUR });
    expect(resizeWindow({ length: HOUR }, DAY)).toEqual({ length: DAY });
  });
  it('lies inside the tape’s span', () => {
    fc.assert(
      fc.property(fc.integer({ min: MINUTE, max: 30 * DAY }), fc.integer({ min: 0, max: 60 * DAY }), (length, ago) => {
        const to = NOW - ago;
        const span = tapeSpan({ from: to - length, to }, NOW);
        const [from, end] = 'length' in span ? [NOW - span.length, NOW] : [span.from, span.to];
        expect(from).toBeLessThanOrEqual(to - length);
        expect(end).toBeGreaterThanOrEqual(to);
      }),
    );
  });
  it('is said in words', () => {
    expect(windowInWords({ length: 3 * HOUR }, NOW)).toMatch(/ – now, 3 h$/);
  });
});

it('scope, window and choice survive the address, names with odd letters included', () => {
  const part = fc
    .string({ minLength: 1, maxLength: 12 })
    .filter((text) => text.trim() !== '' && !/[\uD800-\uDFFF]/.test(text));
  fc.assert(
    fc.property(
      fc.array(part, { maxLength: 5 }),
      fc.boolean(),
      fc.constantFrom('cpu' as const, 'memory' as const),
      (path, sheet, resource) => {
        const view = { path, sheet, resource, window: { length: HOUR } };
        expect(readView(writeView(view))).toEqual(view);
      },
    ),
  );
  expect(
    writeView({
      path: ['seaward', 'tides', 'deployment:tide-model'],
      window: { length: HOUR },
      resource: 'cpu',
      sheet: true,
    }),
  ).toBe('?in=seaward/tides/deployment:tide-model&window=1h');
});

describe('the tape', () => {
  const scale = { from: NOW - 12 * HOUR, to: NOW, width: 1000 };
  const mark = (
    minutesAgo: number,
    kind: 'rollout' | 'raised' | 'restart',
    severity: 'critical' | 'warning' | null = null,
  ) => ({ at: NOW - minutesAgo * MINUTE, kind, severity, title: kind, path: ['c'] });
  it('place and time are each other’s inverse', () => {
    expect(timeAt(scale, xOf(scale, NOW - HOUR))).toBeCloseTo(NOW - HOUR, -1);
    expect(timeAt(scale, 99_999)).toBe(NOW);
  });
  it('ticks are round and not crowded at any span', () => {
    for (const length of [HOUR, 3 * HOUR, DAY, 7 * DAY, 90 * DAY]) {
      const ticks = ticksOf({ from: NOW - length, to: NOW, width: 1000 });
      expect(ticks.length).toBeGreaterThan(2);
      for (let i = 1; i < ticks.length; i++) expect(ticks[i]!.x - ticks[i - 1]!.x).toBeGreaterThan(60);
    }
  });
  it('near marks stand as one, led by the gravest', () => {
    const groups = groupMarks(
      [
        mark(300, 'rollout'),
        mark(299, 'raised', 'warning'),
        mark(298, 'raised', 'critical'),
        mark(10, 'restart'),
        mark(99_999, 'rollout'),
      ],
      scale,
    );
    expect(groups.map(({ marks }) => marks.length)).toEqual([3, 1]);
    expect(leading(groups[0]!)).toMatchObject({ kind: 'raised', severity: 'critical' });
  });
  it('a hole in the data is a hole in the line, and the time before anything was read is known', () => {
    const tape: TapeAnswer = {
      span: { from: scale.from, to: NOW, live: true },
      grid: { start: scale.from, step: 3 * HOUR, count: 5 },
      load: [null, 1, 2, null, 1],
      loadOf: 'c',
      marks: [],
      gaps: [],
      newestAt: NOW,
    };
    expect(loadPath(tape, scale, 0, 50).match(/M/g)).toHaveLength(2);
    expect(neverReadUntil(tape)).toBe(scale.from + 3 * HOUR);
    expect(neverReadUntil({ ...tape, load: [1] })).toBeNull();
  });
});
