import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  formatBytes,
  formatClock,
  formatCores,
  formatDuration,
  formatLatency,
  formatPercent,
  formatRate,
  MISSING,
  readDuration,
  writeDuration,
} from './index.ts';

it('cores: two decimals, millicores below 0.1', () => {
  expect([0.0454, 1, 2.984, 26.36, 124].map((value) => formatCores(value))).toEqual([
    '45 millicores',
    '1.00 core',
    '2.98 cores',
    '26.4 cores',
    '124 cores',
  ]);
});
it('bytes: binary, three digits', () => {
  expect([0, 1023, 1536, 999.6 * 1024, 2 ** 31, 1.5 * 2 ** 40].map(formatBytes)).toEqual([
    '0 B',
    '1.00 KiB',
    '1.50 KiB',
    '0.98 MiB',
    '2.00 GiB',
    '1.50 TiB',
  ]);
});
it('percent: decimals only below 10', () => {
  expect([0, 0.061, 0.0996, 0.5, 1.153].map(formatPercent)).toEqual(['0 %', '6.1 %', '10 %', '50 %', '115 %']);
});
it('durations as a person would say them', () => {
  const m = 60_000;
  expect([400, 12_000, 12 * m, 60 * m, 75 * m, 185 * m, 24 * 60 * m, 52 * 60 * m].map(formatDuration)).toEqual([
    '400 ms',
    '12 s',
    '12 min',
    '1 h',
    '75 min',
    '3 h 05',
    '24 h',
    '2 d 4 h',
  ]);
});
it('missing is a dash, never 0', () => {
  expect([
    formatCores(null),
    formatBytes(null),
    formatPercent(null),
    formatDuration(null),
    formatBytes(Number.NaN),
  ]).toEqual(Array(5).fill(MISSING));
});
it('the day is said when it is another one', () => {
  const at = Date.parse('2026-11-24T22:30:00Z');
  expect(formatClock(at, at + 3_600_000, { zone: 'UTC' })).toBe('22:30');
  expect(formatClock(at, at + 7_200_000, { zone: 'UTC' })).toBe('24 Nov 22:30');
});

describe('answers', () => {
  it.each([
    [0, '0 ms'],
    [0.0004, '0.4 ms'],
    [0.084, '84 ms'],
    [0.9996, '1.00 s'],
    [1.236, '1.24 s'],
    [12.34, '12.3 s'],
    [null, '–'],
    [Number.NaN, '–'],
  ])('%s s took %s', (seconds, words) => {
    expect(formatLatency(seconds)).toBe(words);
  });
  it.each([
    [0, '0 per s'],
    [0.004, '0.0040 per s'],
    [0.314, '0.31 per s'],
    [8.424, '8.42 per s'],
    [142.4, '142 per s'],
    [null, '–'],
  ])('%s: %s', (rate, words) => {
    expect(formatRate(rate)).toBe(words);
  });
});

describe('a duration that is typed', () => {
  it('is read back as it was written, to the second', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 40 * 86_400 }), (seconds) => {
        expect(readDuration(writeDuration(seconds * 1000))).toBe(seconds * 1000);
      }),
    );
    expect(writeDuration(100_000)).toBe('1 min 40 s');
    expect(readDuration('1h 30min')).toBe(5_400_000);
  });
  it.each(['', '90', 'soon', '5 minutes', '-3 s', '1 s 2 min', '1.5 h'])('%j is none', (text) => {
    expect(readDuration(text)).toBeNull();
  });
});
