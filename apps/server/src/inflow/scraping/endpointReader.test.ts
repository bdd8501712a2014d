import { readPage } from '@zetopsis/core/exposition';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Clock } from '../../ground/platform/settings.ts';
import { type EndpointPlan, EndpointReader, timeoutFor } from './endpointReader.ts';
import type { FetchResult } from './fetched.ts';

const INTERVAL = 10_000;
const page = readPage(new TextEncoder().encode('a 1\n# EOF\n'), { form: 'openmetrics' });
const good: FetchResult = { ok: true, fetched: { page, contentType: '', durationMs: 5, raw: Buffer.from('a 1\n') } };
const plan = (id: number): EndpointPlan => ({
  id,
  connectionId: 'c',
  node: `n${id}`,
  url: new URL('https://n.test/metrics'),
  intervalMs: INTERVAL,
});

/** A reader whose page takes `takes` ms; what it took is noted. */
function reader(takes: number, answer: () => FetchResult = () => good, id = 1) {
  const taken: number[] = [];
  let running = 0;
  let most = 0;
  const made = new EndpointReader(
    plan(id),
    new Clock(),
    async () => {
      running++;
      most = Math.max(most, running);
      await new Promise((done) => setTimeout(done, takes));
      running--;
      return answer();
    },
    async (_plan, at) => {
      taken.push(at);
    },
    null,
  );
  made.start();
  return { made, taken, most: () => most };
}

describe('reading an endpoint', () => {
  beforeEach(() => {
    vi.useFakeTimers({ now: 1_795_572_003_210 });
  });
  afterEach(() => {
    vi.useRealTimers();
  });

  it('comes back at the same place of every interval', async () => {
    const { made, taken } = reader(50);
    await vi.advanceTimersByTimeAsync(5 * INTERVAL + 100);
    made.stop();
    expect(taken.length).toBeGreaterThanOrEqual(5);
    expect(new Set(taken.map((at) => at % INTERVAL)).size).toBe(1);
  });
  it('is awaited from when it is due until it is taken: who answers up to now stops before it', async () => {
    const { made, taken } = reader(50);
    const due = made.status.nextDueAt!;
    expect(made.awaited(due - 1)).toBeNull();
    expect(made.awaited(due)).toBe(due);
    await vi.advanceTimersByTimeAsync(due - Date.now() + 20);
    expect([made.awaited(Date.now()), taken.length]).toEqual([due, 0]);
    await vi.advanceTimersByTimeAsync(60);
    expect([made.awaited(Date.now()), taken]).toEqual([null, [due]]);
    made.stop();
    expect(made.awaited(due + 10 * INTERVAL)).toBeNull();
  });
  it('is never under way twice, however slow the page is', async () => {
    const { made, taken, most } = reader(2.5 * INTERVAL);
    await vi.advanceTimersByTimeAsync(12 * INTERVAL);
    made.stop();
    expect(most()).toBe(1);
    expect(taken.length).toBe(4);
  });
  it('is spread over the interval: a hundred endpoints have a hundred places', () => {
    const places = Array.from({ length: 100 }, (_, id) => {
      const { made } = reader(1, () => good, id + 1);
      made.stop();
      return made.status.nextDueAt! % INTERVAL;
    }).sort((a, b) => a - b);
    expect(new Set(places).size).toBe(100);
    const gaps = places.map((place, i) => (i === 0 ? place + INTERVAL - places.at(-1)! : place - places[i - 1]!));
    expect(Math.max(...gaps)).toBeLessThan(INTERVAL / 40);
  });
  it('knows since when it fails and since when it reads, and keeps the last good page', async () => {
    let answer: FetchResult = good;
    const { made } = reader(1, () => answer);
    await vi.advanceTimersByTimeAsync(INTERVAL + 10);
    expect(made.status).toMatchObject({ state: 'read', error: null });
    answer = { ok: false, reason: 'It hangs.', durationMs: 1 };
    await vi.advanceTimersByTimeAsync(3 * INTERVAL);
    const { since } = made.status;
    expect(made.status).toMatchObject({ state: 'failing', error: 'It hangs.' });
    expect(made.status.last?.page).toBe(page);
    await vi.advanceTimersByTimeAsync(2 * INTERVAL);
    expect(made.status.since).toBe(since);
    answer = good;
    await vi.advanceTimersByTimeAsync(INTERVAL);
    expect(made.status).toMatchObject({ state: 'read', error: 'It hangs.' });
    made.stop();
  });
  it('stops for good', async () => {
    const { made, taken } = reader(50);
    made.stop();
    await vi.advanceTimersByTimeAsync(5 * INTERVAL);
    expect(taken).toEqual([]);
  });
  it('waits for a page less long than its interval', () => {
    expect([1000, 15_000, 3_600_000].map(timeoutFor)).toEqual([800, 10_000, 10_000]);
  });
});
