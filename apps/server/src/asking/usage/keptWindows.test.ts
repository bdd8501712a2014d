import { HOUR, MINUTE } from '@zetopsis/core/units';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { KeptWindows } from './keptWindows.ts';

let now = 1_800_000_000_000;
let passed = 0;
beforeEach(() => {
  passed = 0;
  vi.spyOn(performance, 'now').mockImplementation(() => passed);
});
const live = (length = 3 * HOUR) => ({ from: now - length, to: now, live: true });
const kept = () => new KeptWindows<number>({ now: () => now }, 4);
/** Work that takes so long by the clock, and answers how often it was done. */
const counting = (takes: number) => {
  let times = 0;
  return async () => {
    passed += takes;
    return ++times;
  };
};
const young = (_: unknown, age: number) => age < 3000;

describe('answers about windows', () => {
  it('are worked out once for all who ask at once, and hold for a while', async () => {
    const all = kept();
    const work = counting(10);
    const ask = () => all.answer({ connectionId: 'a', window: live(), holds: young, work });
    expect(await Promise.all([ask(), ask(), ask()])).toEqual([1, 1, 1]);
    now += 2000;
    expect(await ask()).toBe(1);
    now += 2000;
    expect(await ask()).toBe(2);
  });
  it('that take long are given as they were, up to an age, while they are worked out anew', async () => {
    const all = kept();
    const work = counting(1000);
    const ask = () => all.answer({ connectionId: 'a', window: live(), holds: young, work });
    expect(await ask()).toBe(1);
    now += 10_000;
    expect(await Promise.all([ask(), ask()])).toEqual([1, 1]);
    // after the answer, and once
    expect(passed).toBe(1000);
    await vi.waitFor(async () => expect(await ask()).toBe(2));
    expect(passed).toBe(2000);
    now += 2 * MINUTE;
    expect(await ask()).toBe(3);
  });
  it('are of one window where it only moved on with the time, and of no other', async () => {
    const all = kept();
    const ask = (of: string, window: ReturnType<typeof live>, connectionId = 'a') => {
      let done = false;
      const work = async () => {
        done = true;
        return 1;
      };
      return all.answer({ connectionId, of, window, holds: () => true, work }).then(() => done);
    };
    expect(await ask('', live())).toBe(true);
    now += 20_000;
    expect(await ask('', { ...live(), from: now - 3 * HOUR - 30_000 })).toBe(false);
    expect(await ask('', live(), 'b')).toBe(true);
    expect(await ask('received', live())).toBe(true);
    const past = { from: now - 2 * HOUR, to: now - HOUR, live: false };
    expect(await ask('', past)).toBe(true);
    expect(await ask('', past)).toBe(false);
    // the one asked for longest ago makes room
    expect(await ask('', { ...past, to: past.to + 1 })).toBe(true);
    expect([...all.values()]).toHaveLength(4);
    expect(await ask('', live())).toBe(true);
  });
  it('that failed are asked for again', async () => {
    const all = kept();
    const window = live();
    const fails = async (): Promise<number> => {
      throw new Error('away');
    };
    await expect(all.answer({ connectionId: 'a', window, holds: young, work: fails })).rejects.toThrow('away');
    expect(await all.answer({ connectionId: 'a', window, holds: young, work: counting(1) })).toBe(1);
  });
});
