import { describe, expect, it } from 'vitest';
import { LiveEdge } from './liveEdge.ts';

describe('the live edge', () => {
  it('keeps samples in order of time however they come, and the first of two at one time', () => {
    const edge = new LiveEdge();
    for (const [at, value] of [
      [30, 3],
      [10, 1],
      [20, 2],
      [20, 99],
      [40, 4],
      [30, 98],
    ] as const)
      edge.add(7, at, value);
    expect(edge.get(7)).toEqual({ times: [10, 20, 30, 40], values: [1, 2, 3, 4] });
  });
  it('is the same for any order of arrival', () => {
    const times = [5, 1, 4, 2, 3, 9, 8, 7, 6];
    const edges = Array.from({ length: 50 }, (_, turn) => {
      const edge = new LiveEdge();
      for (const at of [...times].sort((a, b) => ((a * (turn + 3)) % 11) - ((b * (turn + 3)) % 11)))
        edge.add(1, at, at * 10);
      return edge.get(1);
    });
    for (const one of edges)
      expect(one).toEqual({ times: [1, 2, 3, 4, 5, 6, 7, 8, 9], values: [10, 20, 30, 40, 50, 60, 70, 80, 90] });
  });
  it('forgets what is old, and a series of which nothing is left', () => {
    const edge = new LiveEdge();
    for (let at = 0; at < 10; at++) edge.add(1, at, at);
    edge.add(2, 1, 1);
    edge.cut([1, 2, 3], 7);
    expect(edge.get(1)?.times).toEqual([7, 8, 9]);
    expect(edge.get(2)).toBeUndefined();
  });
});
