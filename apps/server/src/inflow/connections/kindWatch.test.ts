import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { ApiRefusal, type ClusterClient } from './clusterClient.ts';
import { KindWatch } from './kindWatch.ts';

const sink = { resync: async () => undefined, changed: () => undefined, deleted: () => undefined };
const clock = { now: () => Date.now() };

/** What the stream of a kind does each time that it is opened. */
function watched(stream: () => Promise<void>) {
  const opened: number[] = [];
  const client = {
    list: async () => ({ objects: [], version: '1' }),
    watch: async () => {
      opened.push(Date.now());
      await stream();
    },
  } as unknown as ClusterClient; // what a watch asks of it
  const watch = new KindWatch('pod', client, sink, clock as never, () => undefined, 0);
  return { opened, watch, running: watch.run() };
}

describe('watching a kind', () => {
  beforeEach(() => vi.useFakeTimers({ now: 1_000_000 }));
  afterEach(() => vi.useRealTimers());
  const MINUTE = 60_000;
  const seconds = (count: number) => new Promise<void>((done) => setTimeout(done, count * 1000));

  it.each([
    ['that ends at once', async () => undefined],
    ['whose version is always too old', async () => Promise.reject(new ApiRefusal(410, 'too old'))],
    ['that always breaks', async () => Promise.reject(new Error('socket closed'))],
  ])('a stream %s is opened again after pauses that grow', async (_name, stream) => {
    const { opened, watch, running } = watched(stream);
    await vi.advanceTimersByTimeAsync(10 * MINUTE);
    // half a second, twice as long each time, up to half a minute
    expect(opened.length).toBeGreaterThan(12);
    expect(opened.length).toBeLessThan(40);
    watch.stop();
    await running;
  });
  it('a stream that lasts is opened again at once when it ends', async () => {
    const { opened, watch, running } = watched(() => seconds(30));
    await vi.advanceTimersByTimeAsync(10 * MINUTE);
    expect(opened.length).toBeGreaterThanOrEqual(20);
    watch.stop();
    await vi.advanceTimersByTimeAsync(MINUTE);
    await running;
  });
  it('a first early end costs no pause', async () => {
    let first = true;
    const { opened, watch, running } = watched(async () => {
      if (!first) return seconds(30);
      first = false;
    });
    await vi.advanceTimersByTimeAsync(1);
    expect(opened).toHaveLength(2);
    watch.stop();
    await vi.advanceTimersByTimeAsync(MINUTE);
    await running;
  });
});
