import { setTimeout as pause } from 'node:timers/promises';
import { afterEach, describe, expect, it } from 'vitest';
import { ServerLog } from './logger.ts';
import { LoopWatch } from './loopWatch.ts';
import { Clock } from './settings.ts';

const busy = (ms: number) => {
  for (const until = performance.now() + ms; performance.now() < until; );
};

describe('the longest stop', () => {
  let watch: LoopWatch | null = null;
  let now = 1_700_000_000_000;
  const begin = () => {
    const clock = new Clock();
    clock.now = () => now;
    watch = new LoopWatch(clock, ServerLog.create('silent'));
    watch.onModuleInit();
    return watch;
  };
  /** Stops everything again until it was seen: on a busy machine one stop may pass between two looks. */
  const stop = async (isSeen: () => boolean) => {
    while (!isSeen()) {
      busy(1100);
      await pause(50);
    }
  };
  afterEach(() => watch?.onApplicationShutdown());

  it('is told for a quarter of an hour, but not that of the beginning', async () => {
    const own = begin();
    await pause(30);
    await stop(() => (own.longest(15 * 60_000)?.ms ?? 0) >= 1000);
    expect(own.trouble).toBeNull();
    now += 70_000;
    expect(own.trouble).toBeNull();
    await pause(30);
    await stop(() => own.trouble !== null);
    expect(own.trouble!.ms).toBeGreaterThanOrEqual(1000);
    expect(own.trouble!.at).toBe(now);
    now += 16 * 60_000;
    expect(own.trouble).toBeNull();
  });
});
