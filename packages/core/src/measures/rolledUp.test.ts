import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { planOf } from '../../testing/measured.ts';
import { counterOf, END, gaugeOf, grid, INTERVAL, SPAN } from '../../testing/worlds.ts';
import { BESIDE, rollUp, samplesOfRollUp } from '../samples/index.ts';
import { type Evaluated, evaluateMeasure, isThere, type Plan, type SeriesIn } from './index.ts';
import { looksAtFigures, neededOfRollUps, rollsUpExactly, stepOfSamples } from './rolledUp.ts';

const BUCKET = 60_000;
/** The same as it is read of roll-ups, with what the plan needs of them and nothing else. */
function rolled(series: SeriesIn, counts: boolean, plan: Plan): SeriesIn {
  const made = rollUp({ times: Float64Array.from(series.times), values: Float64Array.from(series.values) }, BUCKET);
  const needed = new Set(neededOfRollUps(plan));
  const beside = Object.fromEntries(
    BESIDE.filter((name) => needed.has(name)).map((name) => [name, made.columns[name]]),
  );
  return {
    labels: series.labels,
    ...samplesOfRollUp(made, BUCKET, counts),
    interval: BUCKET,
    rolled: { bucket: BUCKET, interval: INTERVAL, beside },
  };
}
const evaluated = (plan: Plan, times: Float64Array, all: Readonly<Record<string, readonly SeriesIn[]>>): Evaluated =>
  evaluateMeasure(plan, {
    series: ({ of }) => all[of.name]!,
    histograms: () => [],
    times,
    instant: times.length === 1,
  });
const valuesOf = ({ lines }: Evaluated) =>
  lines.map(({ labels, values, marks }) => [labels, Array.from(values, (one, i) => (isThere(marks, i) ? one : null))]);

const choice = <T>(...all: readonly T[]) => fc.constantFrom(...all);
const stretch = choice('1m', '2m', '5m');
const OVER = ['average', 'highest', 'lowest', 'latest', 'total', 'count', 'deviation', 'change'] as const;
const rest = choice('', 'total for each zone', 'highest overall', 'percentile 50 overall', 'keep above 2', 'top 1');
const earlier = choice('', '1m earlier', '3m earlier');
const body = fc.oneof(
  fc
    .tuple(earlier, fc.option(choice(...OVER), { nil: null }), stretch, rest)
    .map(([back, what, over, more]) =>
      ['read level', back, what === null ? '' : `${what} over ${over}`, more].join('\n'),
    ),
  fc
    .tuple(earlier, choice('growth', 'per second'), stretch, rest)
    .map(([back, what, over, more]) => ['read runs_total', back, `${what} over ${over}`, more].join('\n')),
);
const late = fc.integer({ min: 0, max: 4000 });
const read = { is: fc.constant('read' as const), late };
const gauge = fc.array(fc.record({ ...read, value: fc.integer({ min: -20, max: 20 }) }), {
  minLength: SPAN,
  maxLength: SPAN,
});
const counter = fc.array(fc.record({ ...read, more: fc.nat(50) }), { minLength: SPAN, maxLength: SPAN });
const LABELS = [
  { zone: 'a', pod: 'p1' },
  { zone: 'a', pod: 'p2' },
  { zone: 'b', pod: 'p3' },
] as const;
/** A counter that begins anew where it falls: that is all that roll-ups know of it. */
const falling = ({ values, ...series }: SeriesIn, every: number): SeriesIn => {
  const { starts: _, created: __, ...own } = series;
  return { ...own, values: Float64Array.from(values, (value, i) => value - (values[i - (i % every)] ?? 0)) };
};

describe('roll-ups', () => {
  it('answer what they may answer exactly as their samples do, at the borders of buckets', () => {
    fc.assert(
      fc.property(
        body,
        fc.array(gauge, { minLength: 1, maxLength: 3 }),
        fc.array(counter, { minLength: 1, maxLength: 3 }),
        choice(BUCKET, 2 * BUCKET),
        fc.integer({ min: 7, max: 90 }),
        (text, gauges, counters, step, every) => {
          const plan = planOf(text);
          const times = grid(END - (SPAN / 2) * INTERVAL, END, step);
          expect(rollsUpExactly(plan, times, BUCKET)).toBe(true);
          const level = gauges.map((all, i) => gaugeOf(all, LABELS[i]));
          const runs = counters.map((all, i) => falling(counterOf(all, LABELS[i]).series, every));
          const raw = valuesOf(evaluated(plan, times, { level, runs_total: runs }));
          const told = valuesOf(
            evaluated(plan, times, {
              level: level.map((one) => rolled(one, false, plan)),
              runs_total: runs.map((one) => rolled(one, true, plan)),
            }),
          );
          expect(told.map(([labels]) => labels)).toEqual(raw.map(([labels]) => labels));
          told.forEach(([, values], n) => {
            (values as (number | null)[]).forEach((value, i) => {
              const other = (raw[n]![1] as (number | null)[])[i]!;
              // a mean of samples, and not of the time that they stand for
              const near = text.includes('average over') ? 4 : 1e-6;
              if (value === null || other === null) expect([text, value]).toEqual([text, other]);
              else expect(Math.abs(value - other), `${text}: ${value}, of samples ${other}`).toBeLessThanOrEqual(near);
            });
          });
        },
      ),
      { numRuns: 300 },
    );
  });

  it('know of values that are none what samples make of them', () => {
    const values = Array.from({ length: SPAN }, (_, i) => (i === SPAN - 3 ? Number.NaN : i % 9));
    const level = gaugeOf(values.map((value) => ({ is: 'read', late: 1, value })));
    for (const what of ['average', 'total', 'highest', 'lowest', 'count', 'deviation']) {
      const plan = planOf(`read level\n${what} over 2m`);
      const times = Float64Array.of(END);
      const [raw] = evaluated(plan, times, { level: [level] }).lines;
      const [told] = evaluated(plan, times, { level: [rolled(level, false, plan)] }).lines;
      expect([what, told!.values[0]]).toEqual([what, raw!.values[0]]);
    }
  });

  it.each(['forecast 1m from 5m', 'time until 30 from 5m', 'usual from 1d'])('have what “%s” needs of them', (step) => {
    const level = gaugeOf(Array.from({ length: SPAN }, (_, i) => ({ is: 'read', late: 1, value: i % 9 })));
    const plan = planOf(`read level\n${step}`);
    expect(evaluated(plan, Float64Array.of(END), { level: [rolled(level, false, plan)] }).lines).toHaveLength(1);
  });

  it.each([
    ['read level\nhighest over 90s', false],
    ['read level\npercentile 95 over 2m', false],
    ['read level\ntime above 3 over 2m', false],
    ['read level\nslope over 2m', false],
    ['read level\nfill gaps up to 2m with last', false],
    ['read level\n30s earlier', false],
    ['read runs_total\nper second over 1m\nhighest over 2m', false],
    ['read level\nhighest by day in Europe/Oslo', true],
    ['a = read level\nb = read runs_total\n  growth over 2m\nshow a / b', true],
  ])('may answer “%s” in the place of samples: %s', (text, may) => {
    expect(rollsUpExactly(planOf(text), [0, BUCKET], BUCKET)).toBe(may);
    expect(rollsUpExactly(planOf(text), [0, BUCKET + 1], BUCKET)).toBe(false);
  });

  it('cannot tell what is asked of samples themselves, but what is asked of figures', () => {
    for (const step of ['percentile 95 over 2m', 'time above 3 over 2m', 'time below 3 over 2m', 'slope over 2m']) {
      expect(stepOfSamples(planOf(`read level\nwhere zone is "a"\n${step}`))).not.toBeNull();
      expect(stepOfSamples(planOf(`read runs_total\nper second over 1m\n${step}`))).toBeNull();
    }
    expect(stepOfSamples(planOf('read level\nhighest over 2m'))).toBeNull();
    expect(looksAtFigures(planOf('read level\nhighest over 2m'))).toBe(false);
    expect(looksAtFigures(planOf('read runs_total\nper second over 1m\nhighest over 2m'))).toBe(true);
  });

  it('of odd moments and short stretches are taken whole, and that is said', () => {
    const level = gaugeOf(Array.from({ length: SPAN }, (_, i) => ({ is: 'read', late: 1, value: i })));
    const plan = planOf('read level\nhighest over 20s');
    const at = END - 2 * BUCKET + 17_000;
    const { lines, notes } = evaluated(plan, Float64Array.of(at), { level: [rolled(level, false, plan)] });
    // of the last bucket that is over at that moment
    expect(lines[0]!.values[0]).toBe(SPAN - 1 - (2 * BUCKET) / INTERVAL);
    expect(notes.join()).toMatch(/20 s was widened to 60 s: a bucket/);
  });
});
