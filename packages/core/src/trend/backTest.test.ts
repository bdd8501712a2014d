import { describe, expect, it } from 'vitest';
import { DAY, HOUR } from '../units/index.ts';
import type { History } from './history.ts';
import { LOOKS_AHEAD, type RunningOut, runningOut } from './runningOut.ts';
import { seeded } from './seeded.ts';

const KNOWN = 14 * 24; // hours
const LIMIT = 100;
const START = Date.parse('2026-11-01T00:00:00Z');

interface Course {
  readonly level: number;
  /** A day. */
  readonly growth: number;
  readonly noise: number;
  readonly memory: number;
  readonly swing: number;
  /** Hour of a jump, and how far. */
  readonly jump: { readonly at: number; readonly by: number } | null;
}
/** What was read, and when it truly reached the limit; null: not within the time that is looked ahead. */
function play(course: Course, random: () => number): { history: History; truth: number | null; end: number } {
  const normal = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  const total = KNOWN + LOOKS_AHEAD / HOUR;
  const values = new Float64Array(KNOWN);
  let noise = 0;
  const end = START + (KNOWN - 1) * HOUR;
  for (let hour = 0; hour < total; hour++) {
    noise = course.memory * noise + Math.sqrt(1 - course.memory ** 2) * course.noise * normal();
    const value =
      course.level +
      (course.growth * hour) / 24 +
      course.swing * Math.sin((hour / 24) * 2 * Math.PI) +
      (course.jump && hour >= course.jump.at ? course.jump.by : 0) +
      noise;
    if (hour < KNOWN) values[hour] = value;
    else if (value >= LIMIT) return { history: { start: START, step: HOUR, values }, truth: START + hour * HOUR, end };
  }
  return { history: { start: START, step: HOUR, values }, truth: null, end };
}
/** The plain way: least squares through everything. */
function straight({ values, start, step }: History): number | null {
  const n = values.length;
  const mx = (n - 1) / 2;
  const my = values.reduce((sum, value) => sum + value, 0) / n;
  let both = 0;
  let width = 0;
  values.forEach((value, i) => {
    both += (i - mx) * (value - my);
    width += (i - mx) ** 2;
  });
  const slope = both / width;
  return slope <= 0 ? null : start + (mx + (LIMIT - my) / slope) * step;
}

function courses(kind: 'leak' | 'rhythm' | 'step' | 'flat', count: number) {
  const random = seeded(kind.length * 7919);
  const between = (low: number, high: number) => low + (high - low) * random();
  return Array.from({ length: count }, () => {
    const noise = between(0.3, 2);
    // a known 14 days, and 2 to 60 days to go
    const left = between(2, 60);
    const growth = kind === 'flat' ? 0 : between(15, 60) / (14 + left);
    const swing = kind === 'rhythm' ? between(3, 10) : 0;
    const jump = kind === 'step' ? { at: Math.floor(between(60, 250)), by: between(-20, 15) } : null;
    const atEnd = kind === 'flat' ? between(30, 80) : LIMIT - growth * left - swing - noise * 2;
    const level = atEnd - growth * 14 - (jump?.by ?? 0);
    return { course: { level, growth, noise, memory: between(0, 0.7), swing, jump }, random };
  });
}
function judge(kind: 'leak' | 'rhythm' | 'step' | 'flat', count: number) {
  const results = courses(kind, count).map(({ course, random }, i) => {
    const { history, truth, end } = play(course, random);
    const told = runningOut(history, LIMIT, seeded(i + 1));
    return { truth, told, end, line: straight(history) };
  });
  const dated = results.filter(({ truth, told }) => truth !== null && told.is === 'date');
  const held = dated.filter(({ truth, told }) => {
    const own = told as Extract<RunningOut, { is: 'date' }>; // filtered
    return truth! >= own.earliest && (own.latest === null || truth! <= own.latest);
  });
  const mean = (list: number[]) => list.reduce((sum, one) => sum + one, 0) / list.length;
  const off = (told: number | null, truth: number, end: number) =>
    Math.min(LOOKS_AHEAD, Math.abs((told ?? end + LOOKS_AHEAD) - truth)) / DAY;
  return {
    dated: dated.length,
    true: results.filter(({ truth }) => truth !== null).length,
    wrongly: results.filter(({ truth, told }) => truth === null && told.is === 'date').length,
    held: held.length / dated.length,
    error: mean(dated.map(({ told, truth, end }) => off((told as { at: number }).at, truth!, end))),
    straight: mean(dated.map(({ line, truth, end }) => off(line, truth!, end))),
  };
}

describe('running out, tried on histories whose future is known', { timeout: 60_000 }, () => {
  it.each(['leak', 'rhythm', 'step'] as const)(
    '%s: the band holds the truth in 70 to 90 of 100, nearer than a line',
    (kind) => {
      const result = judge(kind, 150);
      // behind a jump there may be too few days to tell of two months
      expect(result.dated / result.true).toBeGreaterThan(kind === 'step' ? 0.65 : 0.8);
      expect(result.held).toBeGreaterThanOrEqual(0.7);
      expect(result.held).toBeLessThanOrEqual(0.9);
      expect(result.error).toBeLessThan(result.straight);
    },
  );
  it('flat noise gets a date in at most 5 of 100', () => {
    const result = judge('flat', 200);
    expect(result.wrongly / 200).toBeLessThanOrEqual(0.05);
  });
  it('a leak that is ended and begins again is told by its newest climb', () => {
    // three teeth: 38 to 98 in ten hours, by ten minutes
    const values = Float64Array.from({ length: 150 }, (_, i) => 38 + (i % 60));
    const told = runningOut({ start: START, step: HOUR / 6, values }, LIMIT, seeded(1));
    const end = START + (149 * HOUR) / 6;
    // the newest tooth stands at 67
    expect(told).toMatchObject({ is: 'date' });
    const hours = ((told as { at: number }).at - end) / HOUR;
    expect(hours).toBeGreaterThan(5);
    expect(hours).toBeLessThan(6);
  });
  it('does not tell of a month from a day', () => {
    // a slow climb, seen for one day
    const values = Float64Array.from({ length: 25 }, (_, i) => 90 + i / 1000);
    expect(runningOut({ start: START, step: HOUR, values }, LIMIT, seeded(1))).toEqual({
      is: 'later',
      within: 12 * DAY,
    });
  });
  it('says nothing of a history that is too short, and "now" where the limit is reached', () => {
    const few = Float64Array.from({ length: 8 }, (_, i) => i);
    expect(runningOut({ start: START, step: HOUR, values: few }, LIMIT, seeded(1))).toEqual({ is: 'unknown' });
    const full = Float64Array.from({ length: 40 }, () => 100);
    expect(runningOut({ start: START, step: HOUR, values: full }, LIMIT, seeded(1))).toEqual({ is: 'now' });
    expect(runningOut({ start: START, step: HOUR, values: full }, 0, seeded(1))).toEqual({ is: 'unknown' });
  });
});
