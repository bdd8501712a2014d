import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Samples } from '../samples/index.ts';
import { gridFor } from '../usage/index.ts';
import {
  isFailed,
  latencyOnGrid,
  mayTellOfRequests,
  ratesOnGrid,
  recogniseRequests,
  type ServedSeries,
} from './index.ts';

const served = (metric: string, ...labels: Record<string, string>[]): ServedSeries => ({
  metric,
  labels: labels.map((own) => new Map(Object.entries(own))),
});
const histogram = (base: string, labels: Record<string, string> = {}): ServedSeries[] => [
  served(`${base}_bucket`, { ...labels, le: '0.1' }, { ...labels, le: '+Inf' }),
  served(`${base}_count`, labels),
];

describe('which metrics tell of requests', () => {
  it('the convention’s histogram, which tells of failures itself', () => {
    const own = histogram('http_server_request_duration_seconds', { http_response_status_code: '200' });
    expect(
      recogniseRequests([...own, ...histogram('app_request_duration_seconds'), served('app_requests_total', {})]),
    ).toEqual({
      count: 'http_server_request_duration_seconds_count',
      tellsFailures: true,
      buckets: 'http_server_request_duration_seconds_bucket',
      factor: 1,
    });
  });
  it('a counter that tells of failures beside a histogram that does not', () => {
    const own = [...histogram('app_request_duration_ms'), served('app_requests_total', { outcome: 'good' })];
    expect(recogniseRequests(own)).toEqual({
      count: 'app_requests_total',
      tellsFailures: true,
      buckets: 'app_request_duration_ms_bucket',
      factor: 1e-3,
    });
    expect(
      recogniseRequests([...histogram('app_request_duration_ms'), served('app_requests_total', { path: '/' })]),
    ).toMatchObject({
      count: 'app_request_duration_ms_count',
      tellsFailures: false,
    });
  });
  it('a counter alone', () => {
    expect(recogniseRequests([served('crane_commands_total', { result: 'ok' })])).toEqual({
      count: 'crane_commands_total',
      tellsFailures: true,
      buckets: null,
      factor: 1,
    });
  });
  it.each([
    ['what it asks of others', histogram('http_client_request_duration_seconds')],
    ['sizes', histogram('http_request_size_bytes')],
    ['other counters', [served('boats_total', {})]],
    ['a gauge', [served('app_open_requests', {})]],
    ['a histogram without a count', [served('app_request_duration_seconds_bucket', { le: '1' })]],
    ['buckets without bounds', [served('app_request_duration_seconds_bucket', {}), served('boats_count', {})]],
    ['names without series', [served('app_requests_total')]],
    ['nothing', []],
  ])('not %s', (_, own) => {
    expect(recogniseRequests(own)).toBeNull();
  });
  it('names that cannot tell are passed over without a look at their series', () => {
    expect(['app_requests_total', 'rpc_server_duration_milliseconds_bucket'].map(mayTellOfRequests)).toEqual([
      true,
      true,
    ]);
    expect(['boats_total', 'app_open_requests', 'http_client_requests_total'].map(mayTellOfRequests)).toEqual([
      false,
      false,
      false,
    ]);
  });
});

describe('what failed', () => {
  it.each([
    [{ http_response_status_code: '503' }, true],
    [{ http_response_status_code: '404' }, false],
    [{ code: '500' }, true],
    [{ postcode: '500' }, false],
    [{ error_type: 'timeout' }, true],
    [{ error_type: '' }, false],
    [{ rpc_grpc_status_code: '5' }, false],
    [{ rpc_grpc_status_code: '14' }, true],
    [{ rpc_response_status_code: 'UNAVAILABLE' }, true],
    [{ outcome: 'failed' }, true],
    [{ outcome: 'good' }, false],
    [{ result: 'Error' }, true],
    [{ success: 'false' }, true],
    [{ success: 'true' }, false],
    [{ le: '0.5', quay: 'failed' }, false],
  ])('%j: %s', (labels, failed) => {
    expect(isFailed(Object.entries(labels as Record<string, string>))).toBe(failed);
  });
});

const INTERVAL = 15_000;
const GRID = gridFor(0, 600_000, INTERVAL);
/** A counter that grows evenly, so much a second. */
const growing = (perSecond: number, from = 0): Samples => {
  const times = Array.from({ length: 41 }, (_, i) => i * INTERVAL).filter((time) => time >= from);
  return { times, values: times.map((time) => ((time - from) / 1000) * perSecond) };
};

describe('rates', () => {
  it('are summed over pods, and the share that failed is one of all', () => {
    const { all, failedShare } = ratesOnGrid(
      [
        { failed: false, samples: growing(6) },
        { failed: false, samples: growing(3) },
        { failed: true, samples: growing(1) },
      ],
      GRID,
      INTERVAL,
    );
    expect(all.at(-1)).toBeCloseTo(10, 9);
    expect(failedShare.at(-1)).toBeCloseTo(0.1, 9);
  });
  it('no failure seen is a share of 0; no request at all has no share; nothing read has neither', () => {
    const good = ratesOnGrid([{ failed: false, samples: growing(2) }], GRID, INTERVAL);
    expect(good.failedShare.at(-1)).toBe(0);
    const idle = ratesOnGrid([{ failed: false, samples: growing(0) }], GRID, INTERVAL);
    expect([idle.all.at(-1), idle.failedShare.at(-1)]).toEqual([0, Number.NaN]);
    const unread = ratesOnGrid([], GRID, INTERVAL);
    expect([unread.all.at(-1), unread.failedShare.at(-1)]).toEqual([Number.NaN, Number.NaN]);
  });
});

describe('latency', () => {
  const bucketsOf = (of: string, below: Record<string, number>) =>
    Object.entries(below).map(([bound, perSecond]) => ({
      of,
      bound: bound === 'inf' ? Number.POSITIVE_INFINITY : Number(bound),
      samples: growing(perSecond),
    }));
  it('is linear within a bucket, and at least the largest bound beyond it', () => {
    const { below, most } = latencyOnGrid({
      buckets: bucketsOf('a', { 0.1: 50, 0.5: 90, inf: 100 }),
      grid: GRID,
      interval: INTERVAL,
      shares: [0.25, 0.5, 0.7, 0.95],
    });
    expect(below.map((line) => line.at(-1))).toEqual(
      [0.05, 0.1, 0.3, 0.5].map((seconds) => expect.closeTo(seconds, 9)),
    );
    expect(most).toBe(0.5);
  });
  it('of histograms with other bounds is that at the bounds in common', () => {
    const together = latencyOnGrid({
      buckets: [...bucketsOf('a', { 0.1: 5, 1: 10, inf: 10 }), ...bucketsOf('b', { 0.3: 7, 1: 10, inf: 10 })],
      grid: GRID,
      interval: INTERVAL,
      shares: [0.5],
    });
    expect(together.below[0]!.at(-1)).toBeCloseTo(0.5, 9);
  });
  it('is not told without an open bucket, without bounds in common, or without requests', () => {
    const none = (buckets: ReturnType<typeof bucketsOf>) =>
      expect(
        latencyOnGrid({ buckets, grid: GRID, interval: INTERVAL, shares: [0.5] }).below[0]!.every((value) =>
          Number.isNaN(value),
        ),
      ).toBe(true);
    none(bucketsOf('a', { 0.1: 5, 1: 10 }));
    none([...bucketsOf('a', { 0.1: 5 }), ...bucketsOf('b', { 0.2: 5 })]);
    none(bucketsOf('a', { 0.1: 0, inf: 0 }));
    none([]);
  });
  it('rises with the share, lies between its bucket’s bounds, and agrees with counting the requests one by one', () => {
    const bounds = [0.05, 0.1, 0.4, 1, 3];
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0.001, max: 4, noNaN: true }), { minLength: 5, maxLength: 60 }),
        fc.array(fc.integer({ min: 1, max: 99 }), { minLength: 2, maxLength: 5 }),
        (took, percents) => {
          const shares = [...percents].sort((a, b) => a - b).map((percent) => percent / 100);
          const buckets = bucketsOf(
            'a',
            Object.fromEntries([
              ...bounds.map((bound) => [bound, took.filter((seconds) => seconds <= bound).length]),
              ['inf', took.length],
            ]),
          );
          const told = latencyOnGrid({ buckets, grid: GRID, interval: INTERVAL, shares }).below.map(
            (line) => line.at(-1)!,
          );
          expect(told).toEqual([...told].sort((a, b) => a - b));
          const sorted = [...took].sort((a, b) => a - b);
          shares.forEach((share, n) => {
            const exact = sorted[Math.max(0, Math.ceil(share * took.length - 1e-9) - 1)]!;
            const upper = bounds.find((bound) => exact <= bound);
            const lower = Math.max(0, ...bounds.filter((bound) => bound < exact));
            expect(told[n]).toBeGreaterThanOrEqual(lower - 1e-9);
            expect(told[n]).toBeLessThanOrEqual((upper ?? 3) + 1e-9);
          });
        },
      ),
    );
  });
});
