import { describe, expect, it } from 'vitest';
import { DAY, MINUTE } from '../units/index.ts';
import { type AnsweredLines, answeringFindings, answeringOf } from './index.ts';

const NOW = 10 * DAY;
type Course = number | ((minutesAgo: number) => number);
const lines = (
  minutes: number,
  step: number,
  end: number,
  of: Record<'all' | 'failed' | 'latency', Course>,
): AnsweredLines => {
  const count = Math.floor((minutes * MINUTE) / step) + 1;
  const grid = { start: end - (count - 1) * step, step, count };
  const values = (course: Course) =>
    Float64Array.from({ length: count }, (_, i) =>
      typeof course === 'number' ? course : course((NOW - (grid.start + i * step)) / MINUTE),
    );
  return { grid, all: values(of.all), failedShare: values(of.failed), latency: values(of.latency) };
};
function find({ all = 20, failed = 0.002, latency = 0.2 }: { all?: Course; failed?: Course; latency?: Course }) {
  const of = { all, failed, latency };
  const answering = answeringOf(lines(30, MINUTE / 4, NOW, of), lines(24 * 60, 5 * MINUTE, NOW - 30 * MINUTE, of));
  return answering === null ? [] : answeringFindings(answering);
}

describe('answers far from the usual', () => {
  it('are none where all is as ever, where little is asked, and where nobody knows what is usual', () => {
    expect(find({})).toEqual([]);
    expect(find({ all: 0.01, failed: (minutes) => (minutes < 20 ? 1 : 0) })).toEqual([]);
    expect(find({ failed: Number.NaN, latency: Number.NaN })).toEqual([]);
    expect(find({ latency: (minutes) => (minutes < 30 ? 3 : Number.NaN) })).toEqual([]);
  });
  it('are none where they always fail so, and where a fast one is a little slower', () => {
    expect(find({ failed: 0.2 })).toEqual([]);
    expect(find({ latency: (minutes) => (minutes < 20 ? 0.03 : 0.004) })).toEqual([]);
  });
  it('tell failures with what is usual and since when', () => {
    const [finding, ...others] = find({ failed: (minutes) => (minutes <= 20 ? 0.12 : 0.002) });
    expect(others).toEqual([]);
    expect(finding).toMatchObject({ code: 'failsMore', severity: 'warning', since: NOW - 20 * MINUTE });
    expect(finding?.reason).toBe('12 % of the requests that it answers fail, usually 0.2 %.');
  });
  it('are critical where most fail', () => {
    expect(find({ failed: (minutes) => (minutes <= 20 ? 0.8 : 0) })[0]?.severity).toBe('critical');
  });
  it('began before what was read finely: then in the time before that', () => {
    const [finding] = find({ latency: (minutes) => (minutes <= 180 ? 0.9 : 0.2) });
    expect(finding).toMatchObject({ code: 'slower', severity: 'warning', since: NOW - 180 * MINUTE });
    expect(finding?.reason).toMatch(/95 % of its requests stay below 900 ms, usually below 200 ms/);
  });
  it('that come and go began with the stretch that lasts', () => {
    const wave = (minutes: number) => (minutes <= 10 || (minutes > 100 && minutes < 160) ? 0.3 : 0.001);
    expect(find({ failed: wave })[0]?.since).toBe(NOW - 10 * MINUTE);
  });
  it('tell a pod that gets more than its part, beside what else is the matter', () => {
    const uneven = { pod: 'front-a', times: 1.8, pods: 3, since: NOW - 15 * MINUTE };
    const usual = lines(24 * 60, 5 * MINUTE, NOW - 30 * MINUTE, { all: 20, failed: 0.002, latency: 0.2 });
    const lately = (failed: number) => lines(30, MINUTE / 4, NOW, { all: 20, failed, latency: 0.2 });
    const found = (failed: number) => answeringFindings(answeringOf(lately(failed), usual, uneven)!); // it answers
    expect(found(0.002)).toMatchObject([
      {
        code: 'unevenSpread',
        reason: 'front-a gets 1.8 times its part of what is asked of 3 pods.',
        since: NOW - 15 * MINUTE,
      },
    ]);
    expect(found(0.9).map(({ code }) => code)).toEqual(['failsMore', 'unevenSpread']);
  });
});
