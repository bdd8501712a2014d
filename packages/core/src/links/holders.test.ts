import fc from 'fast-check';
import { expect, it } from 'vitest';
import { AddressHolders } from './holders.ts';

const end = (name: string) => ({ cluster: 'seaward', namespace: 'quay', workload: `deployment:${name}` });
const holds = (address: string, name: string, since: number) => [address, { end: end(name), since }] as const;
const who = (holders: AddressHolders, address: string, at: number) =>
  holders.at(address, at)?.workload.split(':')[1] ?? null;

it('an address belongs to whoever had it then; a new pod has it since it came, not since somebody looked', () => {
  const holders = new AddressHolders();
  holders.note([holds('10.0.0.1', 'crane', 100)], 1000);
  holders.note([holds('10.0.0.1', 'dues', 1800)], 2000);
  expect([50, 1799, 1800, 5000].map((at) => who(holders, '10.0.0.1', at))).toEqual(['crane', 'crane', 'dues', 'dues']);
  expect(holders.changedWithin('10.0.0.1', 1000, 2000)).toBe(true);
  expect(holders.changedWithin('10.0.0.1', 1800, 2000)).toBe(false);
  expect(holders.changedWithin('10.0.0.1', 0, 1000)).toBe(false);
  expect(who(holders, '10.0.0.2', 1000)).toBeNull();
});

it('whoever had it last keeps it while nobody has it; a pod that is replaced by one of the same workload changes nothing', () => {
  const holders = new AddressHolders();
  holders.note([holds('a', 'crane', 0)], 10);
  holders.note([], 20);
  expect(who(holders, 'a', 30)).toBe('crane');
  holders.note([holds('a', 'crane', 25)], 40);
  expect(holders.changedWithin('a', 0, 100)).toBe(false);
  // clocks of others do not put it into the future, nor before the one who had it
  holders.note([holds('a', 'dues', 9999)], 50);
  expect([49, 50].map((at) => who(holders, 'a', at))).toEqual(['crane', 'dues']);
  holders.note([holds('a', 'crane', 1)], 60);
  expect(who(holders, 'a', 60)).toBe('crane');
});

it('at the moment of each look, whoever was seen has it, however often it changes hands', () => {
  const looks = fc.array(fc.record({ name: fc.constantFrom('a', 'b', 'c'), age: fc.integer({ min: 0, max: 30 }) }), {
    minLength: 1,
    maxLength: 30,
  });
  fc.assert(
    fc.property(looks, (all) => {
      const holders = new AddressHolders();
      all.forEach(({ name, age }, i) => {
        const now = 100 + i * 10;
        holders.note([holds('x', name, now - age)], now);
        expect(who(holders, 'x', now)).toBe(name);
      });
    }),
  );
});
