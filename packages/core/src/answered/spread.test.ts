import fc from 'fast-check';
import { expect, it } from 'vitest';
import { MINUTE } from '../units/index.ts';
import { mostAsked, spreadOf } from './spread.ts';

const SLOTS = { start: 1_790_000_000_000, length: 5 * MINUTE };
const pod = (name: string, ...requests: number[]) => ({ pod: name, requests: Float64Array.from(requests) });

it('one pod with far more than its part, in two slots in a row, is told with its times and since when', () => {
  const even = [100, 100];
  const found = spreadOf([pod('a', ...even, 400, 420), pod('b', ...even, 40, 30), pod('c', ...even, 40, 30)], SLOTS);
  expect(found).toEqual({ pod: 'a', times: 420 / 160, pods: 3, since: SLOTS.start + 10 * MINUTE });
  expect(spreadOf([pod('a', 400, 400), pod('b', 10, 10)], SLOTS)).toMatchObject({ pod: 'a', since: null });
});

it('once, by turns, with little asked, by one pod alone, or by chance is nothing', () => {
  expect(spreadOf([pod('a', 100, 100, 400), pod('b', 100, 100, 10)], SLOTS)).toBeNull();
  expect(spreadOf([pod('a', 10, 400), pod('b', 400, 10)], SLOTS)).toBeNull();
  expect(spreadOf([pod('a', 150, 150), pod('b', 10, 10)], SLOTS)).toBeNull();
  expect(spreadOf([pod('a', 900, 900)], SLOTS)).toBeNull();
  expect(spreadOf([], SLOTS)).toBeNull();
  // 100 pods with two or three each, one with six: twice its part, as chance has it
  expect(
    mostAsked([
      { pod: 'x', requests: 6 },
      ...Array.from({ length: 99 }, (_, i) => ({ pod: `${i}`, requests: 2 + (i % 2) })),
    ]),
  ).toBeNull();
});

it('who told nothing in a slot has no part in it', () => {
  const Q = Number.NaN;
  expect(spreadOf([pod('a', 300, 300), pod('b', 300, 300), pod('new', Q, Q)], SLOTS)).toBeNull();
  expect(spreadOf([pod('a', 300, 300), pod('b', 10, 10), pod('new', Q, Q)], SLOTS)?.pods).toBe(2);
});

it('pods that are asked the same are never uneven, whatever their order, and the pod that is named has the most', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 5000 }), { minLength: 1, maxLength: 20 }), (requests) => {
      const pods = requests.map((own, i) => ({ pod: `${i}`, requests: own }));
      const told = mostAsked(pods);
      if (told !== null) expect(requests[Number(told.pod)]).toBe(Math.max(...requests));
      expect(mostAsked([...pods].reverse())?.times).toBe(told?.times);
      expect(mostAsked(pods.map((own) => ({ ...own, requests: 1000 })))).toBeNull();
    }),
  );
});
