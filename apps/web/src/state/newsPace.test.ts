import { LiveTopic } from '@zetopsis/contract';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { NewsPace } from './newsPace.ts';

const STILL = -60_000;

it('what is told seldom is asked for at once, and what comes without end every few seconds', () => {
  const pace = new NewsPace();
  pace.came(['alerts'], 0);
  expect(pace.due(0, STILL)).toEqual(['alerts']);
  pace.came(['samples'], 100);
  expect(pace.due(100, STILL)).toEqual(['samples']);
  pace.came(['samples'], 1100);
  expect(pace.due(1100, STILL)).toEqual([]);
  expect(pace.next(STILL)).toBe(5100);
  expect(pace.due(5099, STILL)).toEqual([]);
  expect(pace.due(5100, STILL)).toEqual(['samples']);
  expect(pace.next(STILL)).toBeNull();
});

it('what waits is asked for with what is due: most answers hang on several topics', () => {
  const pace = new NewsPace();
  pace.came(['samples', 'inventory'], 0);
  expect(pace.due(0, STILL)).toEqual(['samples', 'inventory']);
  pace.came(['samples', 'inventory'], 1000);
  expect(pace.next(STILL)).toBe(2500);
  expect(pace.due(2500, STILL)).toEqual(['samples', 'inventory']);
});

it('whoever scrolls is not disturbed by readings, but not for ever; alerts do not wait', () => {
  const pace = new NewsPace();
  pace.came(['samples', 'alerts'], 1000);
  expect(pace.due(1000, 990)).toEqual(['alerts']);
  expect(pace.due(1389, 990)).toEqual([]);
  expect(pace.due(20_999, 20_990)).toEqual([]);
  expect(pace.due(21_000, 20_990)).toEqual(['samples']);
});

it('nothing that was told is dropped, and nothing is asked for twice without being told again', () => {
  const step = fc.record({
    after: fc.integer({ min: 0, max: 3000 }),
    topics: fc.subarray([...LiveTopic.options]),
    scrolls: fc.boolean(),
  });
  fc.assert(
    fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
      const pace = new NewsPace();
      const told = new Set<string>();
      let now = 0;
      let scrolledAt = STILL;
      const ask = () => {
        for (const topic of pace.due(now, scrolledAt)) expect(told.delete(topic)).toBe(true);
      };
      for (const { after, topics, scrolls } of steps) {
        now += after;
        if (scrolls) scrolledAt = now;
        pace.came(topics, now);
        for (const topic of topics) told.add(topic);
        ask();
      }
      for (let next = pace.next(scrolledAt); next !== null; next = pace.next(scrolledAt)) {
        now = Math.max(now, next);
        ask();
      }
      expect([...told]).toEqual([]);
      expect(now).toBeLessThan(3000 * 41 + 20_001);
    }),
  );
});
