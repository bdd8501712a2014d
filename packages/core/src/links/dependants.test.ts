import { describe, expect, it } from 'vitest';
import { dependants } from './dependants.ts';

const link = (from: string, to: string, rate: number) => ({ from, to, rate });
const LINKS = [
  link('in', 'front', 10),
  link('front', 'ledger', 6),
  link('front', 'pay', 4),
  link('kiosk', 'ledger', 2),
  link('ledger', 'base', 8),
  link('old', 'base', 0),
];

describe('what depends on something', () => {
  it('is who calls it, near and far, with the share of what they send', () => {
    expect(dependants(LINKS, 'base', 'callers')).toEqual([
      { key: 'ledger', depth: 1, share: 1 },
      { key: 'kiosk', depth: 2, share: 1 },
      { key: 'front', depth: 2, share: 0.6 },
      { key: 'in', depth: 3, share: 0.6 },
    ]);
  });
  it('and what it needs, with the share of what those receive', () => {
    expect(dependants(LINKS, 'front', 'answerers')).toEqual([
      { key: 'pay', depth: 1, share: 1 },
      { key: 'ledger', depth: 1, share: 0.75 },
      { key: 'base', depth: 2, share: 0.75 },
    ]);
  });
  it('ends where they call each other in a circle', () => {
    expect(dependants([link('a', 'b', 1), link('b', 'a', 1)], 'a', 'callers').map(({ key }) => key)).toEqual(['b']);
  });
});
