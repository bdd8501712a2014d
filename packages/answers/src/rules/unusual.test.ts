import { NONE } from '@zetopsis/core/measures';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type JudgedLine, lineSubjects } from './measureLines.ts';
import { departures, usualByHour, usualOfQuiet } from './unusual.ts';

const line = (values: readonly number[], more: Partial<JudgedLine> = {}): JudgedLine => ({
  labels: { quay: 'north' },
  name: null,
  values,
  marks: Uint8Array.from(values, (value) => (Number.isNaN(value) ? NONE : 0)),
  ...more,
});
const usual = (middle: number, low: number, high: number, points: number) =>
  line(Array(points).fill(middle), { band: { low: Array(points).fill(low), high: Array(points).fill(high) } });
const distances = (values: number[], known: JudgedLine, side: 'above' | 'below' | 'either' = 'either') => [
  ...Array.from(departures([line(values)], usualByHour([known]), side)[0]!.values),
];

describe('how far something is from its usual', () => {
  it('is counted in bands of its own side', () => {
    expect(distances([100, 110, 130, 95, 80], usual(100, 95, 110, 5))).toEqual([0, 1, 3, 1, 4]);
  });
  it('is looked at on one side where one is asked for', () => {
    const known = usual(100, 90, 110, 3);
    expect(distances([130, 100, 70], known, 'above')).toEqual([3, 0, 0]);
    expect(distances([130, 100, 70], known, 'below')).toEqual([0, 0, 3]);
  });
  it('has bands of 2 % of the middle at least: what never moved may move a little', () => {
    expect(distances([101, 104], usual(100, 100, 100, 2))).toEqual([0.5, 2]);
    expect(distances([0, 5], usual(0, 0, 0, 2))).toEqual([0, 1000]);
  });
  it('is unknown of a line of which nothing usual is known, and where nothing was read', () => {
    const [other] = departures([line([1], { labels: { quay: 'south' } })], usualByHour([usual(1, 1, 1, 1)]), 'either');
    expect([...Array.from(other!.values)]).toEqual([Number.NaN]);
    expect(distances([Number.NaN], usual(1, 1, 1, 1))).toEqual([Number.NaN]);
  });
  it('says so in words where nothing usual is known', () => {
    const numbers = {
      levels: { warning: { bound: 1, low: null, holdsSeconds: 0, readings: null }, critical: null },
      clears: { bound: null, low: null },
    };
    const words = (known: readonly JudgedLine[]) =>
      lineSubjects(
        {
          times: [1000],
          lines: departures([line([3])], usualByHour(known), 'either'),
          unit: '',
          shownAs: null,
          workloadOf: () => null,
        },
        {
          compare: 'above',
          thresholds: { ...numbers, side: 'above' },
          thresholdsAt: () => ({ ...numbers, side: 'above' }),
          boundWords: (bound, amount) => amount(bound),
          verb: '',
          rule: 'x',
        },
      )[0]!.value(1000);
    expect(words([])).toBe('3, what is usual is not known');
    expect(words([usual(2, 1, 4, 1)])).toBe('3, usually 1 to 4');
  });
  it('is at most 1 for eight in ten of the quiet stretch that it was learned from, whatever that was', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 10, maxLength: 80 }),
        (values) => {
          const [own] = departures([line(values)], usualOfQuiet([line(values)], values.length), 'either');
          const within = Array.from(own!.values).filter((value) => value <= 1 + 1e-9).length;
          expect(within).toBeGreaterThanOrEqual(Math.floor(values.length * 0.8) - 1);
        },
      ),
    );
  });
  it('learns nothing from fewer than ten values', () => {
    expect(usualOfQuiet([line([1, 2, 3])], 3)(line([1]))).toBeNull();
  });
});
