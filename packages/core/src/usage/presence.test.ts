import { describe, expect, it } from 'vitest';
import { gridTime, presenceOn } from './grid.ts';

describe('presence on a grid', () => {
  it('is just the points from the beginning on and before the end', () => {
    let seed = 7;
    const random = (most: number) => {
      seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648;
      return seed % most;
    };
    for (let run = 0; run < 3000; run++) {
      const grid = { start: 1000 + random(50), step: 1 + random(20), count: 1 + random(12) };
      const from = 900 + random(400);
      const to = random(3) === 0 ? null : from + random(300);
      const [first, end] = presenceOn(grid, from, to);
      for (let i = 0; i < grid.count; i++) {
        const at = gridTime(grid, i);
        const there = at >= from && (to === null || at < to);
        expect([grid, from, to, i, i >= first && i < end]).toEqual([grid, from, to, i, there]);
      }
    }
  });
});
