import { END_MARKER, isEndMarker } from '@zetopsis/core/samples';
import { describe, expect, it } from 'vitest';
import { type EdgeSeries, LiveEdge } from './liveEdge.ts';

const listed = (series: EdgeSeries | undefined) => ({
  times: [...(series?.times ?? [])],
  values: [...(series?.values ?? [])],
});

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
    expect(listed(edge.get(7))).toEqual({ times: [10, 20, 30, 40], values: [1, 2, 3, 4] });
  });
  it('is the same for any order of arrival', () => {
    const times = [5, 1, 4, 2, 3, 9, 8, 7, 6];
    const edges = Array.from({ length: 50 }, (_, turn) => {
      const edge = new LiveEdge();
      for (const at of [...times].sort((a, b) => ((a * (turn + 3)) % 11) - ((b * (turn + 3)) % 11)))
        edge.add(1, at, at * 10);
      return listed(edge.get(1));
    });
    for (const one of edges)
      expect(one).toEqual({ times: [1, 2, 3, 4, 5, 6, 7, 8, 9], values: [10, 20, 30, 40, 50, 60, 70, 80, 90] });
  });
  it('forgets what is old, and a series of which nothing is left', () => {
    const edge = new LiveEdge();
    for (let at = 0; at < 10; at++) edge.add(1, at, at);
    edge.add(2, 1, 1);
    edge.cut([1, 2, 3], 7);
    expect(listed(edge.get(1)).times).toEqual([7, 8, 9]);
    expect(edge.get(2)).toBeUndefined();
  });
  it('never loses that a series ended, however long it is and whatever comes after', () => {
    for (let length = 0; length < 400; length++) {
      const edge = new LiveEdge();
      for (let at = 0; at < length; at++) edge.add(1, at * 2, at * 1.5);
      edge.add(1, length * 2, END_MARKER);
      edge.add(1, length * 2 + 2, 7);
      edge.add(1, length * 2 - 1, 5); // late
      const { times, values } = edge.get(1)!;
      expect(isEndMarker(values[times.indexOf(length * 2)]!)).toBe(true);
    }
  });
  it('what was handed out stays as it was', () => {
    const edge = new LiveEdge();
    for (let at = 0; at < 5; at++) edge.add(1, at * 10, at);
    const before = edge.get(1);
    edge.add(1, 25, 99);
    for (let at = 5; at < 40; at++) edge.add(1, at * 10, at);
    edge.cut([1], 100);
    expect(listed(before)).toEqual({ times: [0, 10, 20, 30, 40], values: [0, 1, 2, 3, 4] });
  });
});
