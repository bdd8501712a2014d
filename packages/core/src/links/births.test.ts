import fc from 'fast-check';
import { expect, it } from 'vitest';
import { MINUTE } from '../units/index.ts';
import { birthsOf } from './births.ts';
import { OUTSIDE } from './link.ts';

const end = (name: string, cluster = 'seaward') => ({ cluster, namespace: 'quay', workload: `deployment:${name}` });
const pair = (from: string, to: string, minute: number) => ({ from: end(from), to: end(to), at: minute * MINUTE });
const told = (from: string, to: string, minute: number) => ({ ...pair(from, to, minute), by: 'requests' });

it('a pair is new when it is told for the first time, a while after the first that were told at all', () => {
  const births = birthsOf([
    told('front', 'ledger', 100),
    told('front', 'base', 108),
    told('front', 'notes', 200),
    told('front', 'notes', 150),
    told('front', 'ledger', 300),
  ]);
  expect(births).toEqual([pair('front', 'notes', 150)]);
  expect(birthsOf([])).toEqual([]);
});

it('is told once, in order of time, and never of what began with the first', () => {
  const one = fc.record({ to: fc.constantFrom('a', 'b', 'c', 'd'), minute: fc.integer({ min: 0, max: 90 }) });
  fc.assert(
    fc.property(fc.array(one, { maxLength: 20 }), (all) => {
      const births = birthsOf(all.map(({ to, minute }) => told('front', to, minute)));
      expect(new Set(births.map(({ to }) => to.workload)).size).toBe(births.length);
      const begun = Math.min(...all.map(({ minute }) => minute));
      const times = births.map(({ at }) => at / MINUTE);
      expect(times).toEqual([...times].sort((a, b) => a - b));
      for (const at of times) expect(at).toBeGreaterThanOrEqual(begun + 15);
    }),
  );
});

it('a cluster, or a way of counting, of which more is known makes nothing new in another', () => {
  const elsewhere = { from: end('front', 'landward'), to: end('base', 'landward'), at: 0, by: 'bytes' };
  const counted = { ...told('front', 'base', 0), by: 'bytes' };
  const outside = { ...told('front', 'gate', 110), from: OUTSIDE };
  const first = [elsewhere, told('front', 'ledger', 100), counted, outside];
  expect(birthsOf(first)).toEqual([]);
  // and what comes to them later is new in each
  const later = [
    told('front', 'notes', 450),
    { ...told('notes', 'ledger', 16), by: 'bytes' },
    { ...outside, to: end('notes'), at: 120 * MINUTE },
  ];
  expect(birthsOf([...first, ...later]).map(({ at }) => at / MINUTE)).toEqual([16, 120, 450]);
});
