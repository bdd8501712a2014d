import { describe, expect, it } from 'vitest';
import { type Scored, scoreIncident, scoreNight } from './index.ts';

describe('links in trouble, of incidents that are made up (npm run incidents has more of them)', () => {
  it('are told first, with the right state and side, and nothing beside them', () => {
    const scored: Scored[] = [];
    for (let seed = 1; scored.length < 32; seed++) {
      const one = scoreIncident(seed);
      if (one) scored.push(one);
    }
    const share = (of: (one: Scored) => boolean) => scored.filter(of).length / scored.length;
    expect(new Set(scored.map(({ kind }) => kind)).size).toBe(8);
    expect(share(({ state }) => state)).toBeGreaterThanOrEqual(0.95);
    expect(share(({ side }) => side)).toBeGreaterThanOrEqual(0.9);
    expect(share(({ beside }) => beside === 0)).toBeGreaterThanOrEqual(0.95);
  });
  it('are none in quiet nights, where calls stay away for long by themselves', () => {
    expect([117, 118].map(scoreNight)).toEqual([[], []]);
  });
});
