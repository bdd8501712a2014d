import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Repeated } from './repeated.ts';

describe('repeated work', () => {
  beforeEach(() => vi.useFakeTimers());
  afterEach(() => vi.useRealTimers());

  it('never runs twice at once, waits from the end of one to the beginning of the next, and ends after the one under way', async () => {
    let begun = 0;
    let end: () => void = () => undefined;
    const own = new Repeated(() => {
      begun++;
      return new Promise<void>((done) => {
        end = done;
      });
    }, 100);
    own.begin(10);
    await vi.advanceTimersByTimeAsync(9);
    expect(begun).toBe(0);
    await vi.advanceTimersByTimeAsync(5000);
    expect(begun).toBe(1);
    end();
    await vi.advanceTimersByTimeAsync(99);
    expect(begun).toBe(1);
    await vi.advanceTimersByTimeAsync(1);
    expect(begun).toBe(2);
    let stopped = false;
    const stop = own.stop().then(() => {
      stopped = true;
    });
    await vi.advanceTimersByTimeAsync(1000);
    expect([stopped, own.ending]).toEqual([false, true]);
    end();
    await stop;
    await vi.advanceTimersByTimeAsync(1000);
    expect(begun).toBe(2);
  });
  it('that was stopped before it began never begins', async () => {
    const work = vi.fn();
    const own = new Repeated(work, 10);
    own.begin();
    await own.stop();
    own.begin();
    await vi.advanceTimersByTimeAsync(100);
    expect(work).not.toHaveBeenCalled();
  });
});
