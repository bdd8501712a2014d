import { DAY, MINUTE } from '@zetopsis/core/units';
import type { Grid } from '@zetopsis/core/usage';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { AnsweringService } from './answering.service.ts';

const START = 20 * DAY;
const LOOKS = 30_000;
const FRONT = 'ticketing/deployment:front';

/** A service on clusters that answer so: the share of failures, now and before. */
function made(failed: { lately: number; before: number; ofOne?: number }, clusters = ['a']) {
  const told = { source: { count: 'requests', buckets: null }, ids: new Map([['requests', [1]]]) };
  const reads: { resolution: string; grid: Grid }[] = [];
  const failures: string[] = [];
  const dead = new Set<string>();
  let now = START;
  const service = new AnsweringService(
    { ids: () => clusters, intervalOf: () => 15_000 } as never,
    { cluster: () => ({ list: () => [] }) } as never,
    {
      spread: (_told: unknown, { slots }: { slots: { count: number } }) =>
        [failed.ofOne ?? 300, 300].map((requests, i) => ({
          pod: `front-${i}`,
          requests: new Float64Array(slots.count).fill(requests),
        })),
      ofCluster: async (id: string) => {
        if (dead.has(id)) throw new Error('PostgreSQL is away');
        return new Map([[FRONT, told]]);
      },
      read: async (_told: unknown, of: { grid: Grid; resolution: string }) => {
        reads.push(of);
        const all = (value: number) => new Float64Array(of.grid.count).fill(value);
        const share = of.resolution === 'five' ? failed.before : failed.lately;
        return { all: all(Number.isNaN(share) ? Number.NaN : 20), failedShare: all(share), nearlyAll: all(0.2) };
      },
    } as never,
    { now: () => now } as never,
    {
      failure: (_code: string, _error: unknown, { connection }: { connection: string }) => failures.push(connection),
    } as never,
  );
  return {
    service,
    failed,
    failures,
    dead,
    reads: (resolution: string) => reads.filter((one) => one.resolution === resolution).length,
    pass: async (time: number) => {
      for (let left = time; left > 0; left -= LOOKS) {
        now += LOOKS;
        await vi.advanceTimersByTimeAsync(LOOKS);
      }
    },
  };
}

describe('how workloads answer, looked at in the background', () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  it('is told of those that answer otherwise than usual, and no more once they are as ever', async () => {
    const { service, failed, pass } = made({ lately: 0.3, before: 0.01 });
    service.onApplicationBootstrap();
    expect(service.of('a')).toBeUndefined();
    await pass(LOOKS);
    expect(service.of('a')?.get(FRONT)?.failing).toMatchObject({ usual: 0.01 });
    failed.lately = 0.01;
    await pass(LOOKS);
    expect(service.of('a')?.size).toBe(0);
    await service.onApplicationShutdown();
  });
  it('looks up what is usual four times an hour; while nothing is known, as in a past that comes in, every two minutes', async () => {
    const { service, failed, reads, pass } = made({ lately: 0.3, before: Number.NaN });
    service.onApplicationBootstrap();
    await pass(10 * MINUTE);
    expect(reads('samples')).toBe(20);
    expect(reads('five')).toBe(5);
    expect(service.of('a')?.size).toBe(0);
    failed.before = 0.01;
    await pass(3 * MINUTE);
    expect(service.of('a')?.size).toBe(1);
    const before = reads('five');
    await pass(60 * MINUTE);
    expect(reads('five') - before).toBeLessThanOrEqual(5);
    await service.onApplicationShutdown();
  });
  it('tells where one pod gets far more than its part, though it answers as usual', async () => {
    const { service, failed, pass } = made({ lately: 0.01, before: 0.01, ofOne: 3000 });
    service.onApplicationBootstrap();
    await pass(LOOKS);
    expect(service.of('a')?.get(FRONT)).toMatchObject({
      failing: null,
      slow: null,
      uneven: { pod: 'front-0', pods: 2, since: null },
    });
    failed.ofOne = 300;
    await pass(LOOKS);
    expect(service.of('a')?.size).toBe(0);
    await service.onApplicationShutdown();
  });
  it('of one cluster that cannot be read does not keep it from the others; what is gone is forgotten', async () => {
    const clusters = ['a', 'b'];
    const { service, failures, dead, pass } = made({ lately: 0.3, before: 0.01 }, clusters);
    dead.add('a');
    service.onApplicationBootstrap();
    await pass(LOOKS);
    expect(failures).toEqual(['a']);
    expect(service.of('b')?.size).toBe(1);
    clusters.pop();
    await pass(LOOKS);
    expect(service.of('b')).toBeUndefined();
    await service.onApplicationShutdown();
  });
});
