import { describe, expect, it } from 'vitest';
import { DAY, HOUR, MINUTE } from '../units/index.ts';
import type { History } from './history.ts';
import { type RunningOut, runningOut, runningOutByScales, seeded } from './index.ts';

const LIMIT = 100;
const NOW = Date.parse('2026-11-25T12:00:00Z');
const SCALES = [
  { name: 'minutes', step: MINUTE / 2, known: 180 },
  { name: 'hours', step: 5 * MINUTE, known: 288 },
  { name: 'days', step: HOUR, known: 336 },
] as const;
/** What was read until now of something that has a value at every moment, the finest first. */
const readOf = (value: (at: number) => number, now = NOW): History[] =>
  SCALES.map(({ step, known }) => ({
    start: now - (known - 1) * step,
    step,
    values: Float64Array.from({ length: known }, (_, i) => value(now - (known - 1 - i) * step)),
  }));
const dateOf = (told: RunningOut): number | null => (told.is === 'date' ? told.at : null);

/** Courses with noise whose future is known, in steps of a scale: leaks, and such as began with a jump. */
function backTest({ step, known }: (typeof SCALES)[number], kind: 'leak' | 'step', count: number) {
  const random = seeded(kind.length * 7919 + known);
  const between = (low: number, high: number) => low + (high - low) * random();
  const normal = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  let dated = 0;
  let held = 0;
  let possible = 0;
  const errors: number[] = [];
  for (let n = 0; n < count; n++) {
    const noise = between(0.3, 2);
    const left = between(known / 7, known * 4);
    const growth = between(15, 60) / (known + left);
    const jump = kind === 'step' ? { at: Math.floor(between(known * 0.2, known * 0.6)), by: between(-20, 15) } : null;
    const level = LIMIT - growth * (left + known) - noise * 2 - (jump?.by ?? 0);
    const memory = between(0, 0.7);
    const values = new Float64Array(known);
    let own = 0;
    let truth: number | null = null;
    for (let i = 0; i < known * 14 && truth === null; i++) {
      own = memory * own + Math.sqrt(1 - memory ** 2) * noise * normal();
      const value = level + growth * i + (jump && i >= jump.at ? jump.by : 0) + own;
      if (i < known) values[i] = value;
      else if (value >= LIMIT) truth = i;
    }
    if (truth === null) continue;
    possible++;
    const told = runningOut({ start: 0, step, values }, LIMIT, seeded(n + 1));
    if (told.is !== 'date') continue;
    dated++;
    if (truth * step >= told.earliest && (told.latest === null || truth * step <= told.latest)) held++;
    errors.push(Math.abs(told.at - truth * step) / ((truth - known + 1) * step));
  }
  errors.sort((a, b) => a - b);
  return { dated: dated / possible, held: held / dated, error: errors[Math.floor(errors.length / 2)]! };
}

describe('running out, at three scales', { timeout: 60_000 }, () => {
  it.each(SCALES.flatMap((scale) => (['leak', 'step'] as const).map((kind) => [scale.name, kind, scale] as const)))(
    '%s, %s: the band holds the truth in 70 to 90 of 100',
    (name, kind, scale) => {
      const result = backTest(scale, kind, 150);
      console.log(
        `${name}, ${kind}: dated ${Math.round(result.dated * 100)} %, band holds ${Math.round(result.held * 100)} %, half of the errors below ${Math.round(result.error * 100)} % of what was left`,
      );
      expect(result.dated).toBeGreaterThan(0.65);
      expect(result.held).toBeGreaterThanOrEqual(0.7);
      expect(result.held).toBeLessThanOrEqual(0.9);
    },
  );
  it.each([
    ['20 minutes', 20 * MINUTE],
    ['two hours', 2 * HOUR],
    ['9 hours', 9 * HOUR],
    ['four days', 4 * DAY],
  ])('a straight leak of %s is told within 2 in 100 of its true end, from half way on', (_name, length) => {
    const began = NOW - length;
    const value = (at: number) => (at < began ? 40 : 40 + (60 * (at - began)) / length);
    for (const part of [0.5, 0.6, 0.7, 0.8, 0.9]) {
      const now = began + part * length;
      const told = runningOutByScales(readOf(value, now), LIMIT, seeded(3));
      const at = dateOf(told);
      expect(told.is, `${part} of the way`).toBe('date');
      expect(Math.abs(at! - NOW) / length, `${part} of the way`).toBeLessThanOrEqual(0.02);
      const { earliest, latest } = told as Extract<RunningOut, { is: 'date' }>;
      expect(earliest).toBeLessThan(latest ?? Number.POSITIVE_INFINITY);
      expect(NOW).toBeGreaterThanOrEqual(earliest - 0.005 * length);
      expect(NOW).toBeLessThanOrEqual((latest ?? NOW) + 0.005 * length);
    }
  });
  it('a leak that has just begun is not hidden by days that were calm', () => {
    const told = runningOutByScales(
      readOf((at) => (at < NOW - 15 * MINUTE ? 30 : 30 + (at - (NOW - 15 * MINUTE)) / MINUTE)),
      LIMIT,
      seeded(1),
    );
    expect(dateOf(told)).toBeCloseTo(NOW + 55 * MINUTE, -5);
  });
  it('what goes up and down far below its limit every few hours gets no date', () => {
    // up to 60 and down again, every three hours
    const tooth = (at: number) => 60 * ((at / (3 * HOUR)) % 1);
    for (const shift of [0, 40, 80, 120, 160]) {
      const told = runningOutByScales(
        readOf((at) => tooth(at + shift * MINUTE)),
        LIMIT,
        seeded(1),
      );
      expect(told.is, `${shift} minutes on`).not.toBe('date');
    }
  });
  it('what was ended at its limit before and climbs again is told', () => {
    const tooth = (at: number) => 38 + 62 * (((at + 2 * HOUR) / (9 * HOUR)) % 1);
    const told = runningOutByScales(readOf(tooth), LIMIT, seeded(1));
    const share = ((NOW + 2 * HOUR) / (9 * HOUR)) % 1;
    expect(Math.abs(dateOf(told)! - (NOW + (1 - share) * 9 * HOUR)) / HOUR).toBeLessThan(0.2);
  });
});
