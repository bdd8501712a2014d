import { describe, expect, it } from 'vitest';
import { END_MARKER, type Samples, stalenessOf } from '../samples/index.ts';
import { HOUR, MINUTE, SECOND } from '../units/index.ts';
import { unreadOnGrid } from './grid.ts';
import { type Grid, gridFor, gridTime, latestOnGrid, perSecondOnGrid } from './index.ts';

const T0 = 1_700_000_000_000;
const INTERVAL = 15 * SECOND;
const PER_SECOND = 2;
const GAUGE = 7;
/** Readings from … to, so far apart: of a counter, or of a gauge. */
const read = (from: number, to: number, apart: number, of: 'counter' | 'gauge'): Samples => {
  const times = Array.from({ length: Math.floor((to - from) / apart) + 1 }, (_, i) => T0 + from + i * apart);
  return { times, values: times.map((at) => (of === 'gauge' ? GAUGE : 1e6 + (PER_SECOND * (at - T0)) / 1000)) };
};
/** One after the other; bit by bit, since an end is marked by a number of its own. */
function joined(...parts: readonly Samples[]): Samples {
  const count = parts.reduce((sum, { times }) => sum + times.length, 0);
  const out = { times: new Float64Array(count), values: new Float64Array(count) };
  let at = 0;
  for (const { times, values } of parts) {
    out.times.set(times, at);
    out.values.set(values, at);
    at += times.length;
  }
  return out;
}
const figures = (samples: Samples, grid: Grid) =>
  perSecondOnGrid({ samples, grid, over: Math.max(grid.step, 4 * INTERVAL), staleness: stalenessOf(INTERVAL) });
const levels = (samples: Samples, grid: Grid) => latestOnGrid(samples, grid, stalenessOf(INTERVAL));
const unread = (samples: Samples, grid: Grid) =>
  unreadOnGrid({ samples, grid, staleness: stalenessOf(INTERVAL), from: samples.times[0]! });
/** Minutes of the grid at which nothing is known, out of those that lie between two moments. */
const blank = (line: Float64Array, grid: Grid, from: number, to: number) =>
  [...line].flatMap((value, i) => {
    const at = gridTime(grid, i) - T0;
    return Number.isNaN(value) && at >= from && at <= to ? [at / MINUTE] : [];
  });

describe('a window answers from what there is', () => {
  it.each([
    ['as read', 15 * SECOND],
    ['every minute', MINUTE],
    ['as a past is brought in', 5 * MINUTE],
    ['a slow page', 20 * MINUTE],
    ['the slowest page', HOUR],
  ])('%s: rates, levels and their gaps, in windows of every length', (_name, apart) => {
    for (const hours of [3, 12, 48]) {
      if (apart * 6 > hours * HOUR) continue;
      const grid = gridFor(T0, T0 + hours * HOUR, INTERVAL);
      const counter = read(-4 * apart, hours * HOUR, apart, 'counter');
      const gauge = read(-4 * apart, hours * HOUR, apart, 'gauge');
      expect(blank(figures(counter, grid), grid, 0, hours * HOUR)).toEqual([]);
      for (const rate of figures(counter, grid)) expect(rate).toBeCloseTo(PER_SECOND, 9);
      expect([...new Set(levels(gauge, grid))]).toEqual([GAUGE]);
      expect(unread(gauge, grid).every((missing) => missing === 0)).toBe(true);
    }
  });
  it('a seam between a past that was brought in and what was read since is none', () => {
    const grid = gridFor(T0, T0 + 3 * HOUR, INTERVAL);
    for (const later of [15 * SECOND, 2 * MINUTE, 5 * MINUTE]) {
      const of = (what: 'counter' | 'gauge') =>
        joined(read(-HOUR, HOUR, 5 * MINUTE, what), read(HOUR + later, 3 * HOUR, INTERVAL, what));
      expect(blank(figures(of('counter'), grid), grid, 0, 3 * HOUR)).toEqual([]);
      expect(blank(levels(of('gauge'), grid), grid, 0, 3 * HOUR)).toEqual([]);
    }
  });
  it('a gap in what is read often stays a gap', () => {
    const grid = gridFor(T0, T0 + 3 * HOUR, INTERVAL);
    const gapped = joined(read(-HOUR, HOUR, INTERVAL, 'gauge'), read(HOUR + 10 * MINUTE, 3 * HOUR, INTERVAL, 'gauge'));
    const minutes = blank(levels(gapped, grid), grid, 0, 3 * HOUR);
    expect(minutes.length).toBeGreaterThan(10);
    for (const minute of minutes) expect(minute >= 60 && minute <= 70).toBe(true);
    // and what is not read any more is not known any more
    const silent = read(-HOUR, HOUR, INTERVAL, 'gauge');
    expect(blank(levels(silent, grid), grid, HOUR + MINUTE, 3 * HOUR)).toHaveLength(
      blank(new Float64Array(grid.count).fill(Number.NaN), grid, HOUR + MINUTE, 3 * HOUR).length,
    );
  });
  it('a gap in a past that was brought in stays one, too, and an end is an end', () => {
    const grid = gridFor(T0, T0 + 12 * HOUR, INTERVAL);
    const gapped = joined(read(-HOUR, 3 * HOUR, 5 * MINUTE, 'gauge'), read(5 * HOUR, 12 * HOUR, 5 * MINUTE, 'gauge'));
    const minutes = blank(levels(gapped, grid), grid, 0, 12 * HOUR);
    expect(minutes.length).toBeGreaterThan(10);
    for (const minute of minutes) expect(minute > 180 && minute < 300).toBe(true);
    const ended = joined(read(-HOUR, HOUR, 5 * MINUTE, 'gauge'), {
      times: Float64Array.of(T0 + HOUR + 1),
      values: Float64Array.of(END_MARKER),
    });
    expect(levels(ended, grid).at(-1)).toBeNaN();
    expect(unread(ended, grid).at(-1)).toBe(0);
  });
  it('two readings alone tell nothing of how far apart they come', () => {
    const grid = gridFor(T0, T0 + 3 * HOUR, INTERVAL);
    const two: Samples = { times: [T0, T0 + HOUR], values: [GAUGE, GAUGE] };
    expect(blank(levels(two, grid), grid, 5 * MINUTE, 55 * MINUTE).length).toBeGreaterThan(30);
  });
});
