import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EdgeBuffer } from './edgeBuffer.ts';
import { END_MARKER, isEndMarker } from './endMarker.ts';
import { Layout, LiveEdge } from './liveEdge.ts';

const listed = (series: { times: ArrayLike<number>; values: ArrayLike<number> } | undefined) => ({
  times: Array.from(series?.times ?? []),
  values: Array.from(series?.values ?? []),
});

describe('samples of one series', () => {
  it('keeps samples in order of time however they come, and the first of two at one time', () => {
    const edge = new EdgeBuffer();
    for (const [at, value] of [
      [30, 3],
      [10, 1],
      [20, 2],
      [20, 99],
      [40, 4],
      [30, 98],
    ] as const)
      edge.add(at, value);
    expect(listed(edge.series)).toEqual({ times: [10, 20, 30, 40], values: [1, 2, 3, 4] });
  });
  it('is the same for any order of arrival', () => {
    const times = [5, 1, 4, 2, 3, 9, 8, 7, 6];
    const edges = Array.from({ length: 50 }, (_, turn) => {
      const edge = new EdgeBuffer();
      for (const at of [...times].sort((a, b) => ((a * (turn + 3)) % 11) - ((b * (turn + 3)) % 11)))
        edge.add(at, at * 10);
      return listed(edge.series);
    });
    for (const one of edges)
      expect(one).toEqual({ times: [1, 2, 3, 4, 5, 6, 7, 8, 9], values: [10, 20, 30, 40, 50, 60, 70, 80, 90] });
  });
  it('forget what is old', () => {
    const edge = new EdgeBuffer();
    for (let at = 0; at < 10; at++) edge.add(at, at);
    expect(edge.cut(7)).toBe(3);
    expect(listed(edge.series).times).toEqual([7, 8, 9]);
    expect(edge.cut(70)).toBe(0);
  });
  it('never loses that a series ended, however long it is and whatever comes after', () => {
    for (let length = 0; length < 400; length++) {
      const edge = new EdgeBuffer();
      for (let at = 0; at < length; at++) edge.add(at * 2, at * 1.5);
      edge.add(length * 2, END_MARKER);
      edge.add(length * 2 + 2, 7);
      edge.add(length * 2 - 1, 5); // late
      const { times, values } = edge.series;
      expect(isEndMarker(values[times.indexOf(length * 2)]!)).toBe(true);
    }
  });
  it('what was handed out stays as it was', () => {
    const edge = new EdgeBuffer();
    for (let at = 0; at < 5; at++) edge.add(at * 10, at);
    const before = edge.series;
    edge.add(25, 99);
    for (let at = 5; at < 40; at++) edge.add(at * 10, at);
    edge.cut(100);
    expect(listed(before)).toEqual({ times: [0, 10, 20, 30, 40], values: [0, 1, 2, 3, 4] });
  });
});

describe('the live edge', () => {
  const ab = new Layout(Int32Array.of(9, 4));
  const b = new Layout(Int32Array.of(4));
  const frame = (values: number[], ended: number[] = [], times: number[] | null = null) => ({ values, ended, times });

  it('gives each series its samples out of whole readings, in whatever order and shape they came', () => {
    const edge = new LiveEdge();
    edge.add(1, { at: 20, layout: ab, frame: frame([2, 20]) });
    edge.add(1, { at: 10, layout: ab, frame: frame([1, 10]) });
    edge.add(1, { at: 30, layout: b, frame: frame([30], [9]) });
    expect(listed(edge.samples(1, 9))).toEqual({ times: [10, 20, 30], values: [1, 2, Number.NaN] });
    expect(isEndMarker(edge.samples(1, 9).values[2]!)).toBe(true);
    expect(listed(edge.samples(1, 4))).toEqual({ times: [10, 20, 30], values: [10, 20, 30] });
    expect(listed(edge.samples(2, 4)).times).toEqual([]);
    expect(edge.newest(1)?.at).toBe(30);
  });
  it('gives those from a moment on and the one before, whatever the shapes between', () => {
    const edge = new LiveEdge();
    for (let at = 0; at < 10; at++)
      edge.add(1, {
        at,
        layout: new Layout(Int32Array.from(at % 2 === 0 ? [9, 7, at + 100] : [at + 100, 7, 9])),
        frame: { values: Float64Array.from([1, 2, 3]), times: null, ended: [] },
      });
    const all = listed(edge.samples(1, 7));
    expect(all).toEqual({ times: [0, 1, 2, 3, 4, 5, 6, 7, 8, 9], values: Array(10).fill(2) });
    for (const since of [-1, 0, 0.5, 4, 8.5, 9, 100, Number.POSITIVE_INFINITY]) {
      const first = all.times.findLastIndex((at) => at < since);
      expect([since, listed(edge.samples(1, 7, since)).times]).toEqual([since, all.times.slice(Math.max(0, first))]);
    }
    expect(listed(edge.samples(1, 9)).values).toEqual([1, 3, 1, 3, 1, 3, 1, 3, 1, 3]);
    expect(listed(edge.samples(1, 104)).times).toEqual([4]);
  });
  it('tells the newest up to a moment as its samples do, whatever was read', () => {
    const reading = fc.record({
      at: fc.integer({ min: 0, max: 30 }),
      both: fc.boolean(),
      ended: fc.boolean(),
      timed: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(reading, { maxLength: 12 }), (readings) => {
        const edge = new LiveEdge();
        for (const { at, both, ended, timed } of readings)
          edge.add(1, {
            at,
            layout: both ? ab : b,
            frame: frame(
              both ? [at, 10 * at] : [10 * at],
              ended && !both ? [9] : [],
              timed ? (both ? [at - 0.5, at - 0.5] : [at - 0.5]) : null,
            ),
          });
        for (const id of [9, 4, 5])
          for (let at = -1; at <= 31; at += 0.5) {
            const { times, values } = listed(edge.samples(1, id));
            const last = times.findLastIndex((time) => time <= at);
            const newest = edge.newestAt(1, id, at);
            expect(newest).toEqual(last < 0 ? null : { at: times[last], value: values[last] });
          }
      }),
    );
  });
  it('takes the first of two readings of one moment', () => {
    const edge = new LiveEdge();
    expect(edge.add(1, { at: 10, layout: ab, frame: frame([1, 10]) })).toBe(true);
    expect(edge.add(1, { at: 10, layout: ab, frame: frame([7, 70]) })).toBe(false);
    expect(edge.readingAt(1, 10)?.frame.values).toEqual([1, 10]);
    expect(listed(edge.samples(1, 9)).values).toEqual([1]);
  });
  it('puts samples with times of their own where they belong', () => {
    const edge = new LiveEdge();
    edge.add(1, { at: 10, layout: ab, frame: frame([1, 10]) });
    edge.add(1, { at: 30, layout: ab, frame: frame([3, 30], [], [20, 10]) });
    expect(listed(edge.samples(1, 9))).toEqual({ times: [10, 20], values: [1, 3] });
    // the same time twice: the one with its own time counts
    expect(listed(edge.samples(1, 4))).toEqual({ times: [10], values: [30] });
    edge.add(1, { at: 40, layout: ab, frame: frame([4, 40]) });
    edge.cut(1, 35);
    expect(listed(edge.samples(1, 4))).toEqual({ times: [40], values: [40] });
    expect(edge.readingsAfter(1, 0).map(({ at }) => at)).toEqual([30, 40]);
    edge.forget(1);
    expect(edge.newest(1)).toBeUndefined();
  });
});
