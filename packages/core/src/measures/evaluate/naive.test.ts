import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CATALOGUE } from '../../../testing/measured.ts';
import { Naive } from '../../../testing/naiveMeasures.ts';
import { counterOf, END, gaugeOf, grid, happenings, INTERVAL, levels, SPAN } from '../../../testing/worlds.ts';
import { checkMeasure, evaluateMeasure, isThere, parseMeasure, printMeasure, type SeriesIn } from '../index.ts';
import { labelsKey } from './lines.ts';

/** The long proof: RUNS=10000 npx vitest run --project unit packages/core/src/measures/evaluate/naive.test.ts */
const RUNS = Number(process.env['RUNS'] ?? 150);

const choice = <T>(...all: readonly T[]) => fc.constantFrom(...all);
const duration = choice('30s', '1m', '90s', '3m', '5m');
const overTime = fc
  .oneof(
    fc.tuple(
      choice('average', 'highest', 'lowest', 'latest', 'total', 'count', 'deviation', 'change', 'slope'),
      duration,
    ),
    fc.tuple(choice('percentile 95', 'percentile 0', 'percentile 37.5', 'time above 3', 'time below -2'), duration),
  )
  .map(([what, over]) => `${what} over ${over}`);
const counted = fc.tuple(choice('growth', 'per second'), duration).map(([what, over]) => `${what} over ${over}`);
const labels = choice('where zone is "a"', 'rename label pod to container', 'where pod is "p1"');
const earlier = choice('1m earlier', '45s earlier');
const across = fc
  .tuple(
    choice('total', 'average', 'highest', 'lowest', 'count', 'deviation', 'percentile 50', 'percentile 90'),
    choice('for each zone', 'for each zone, pod', 'overall'),
  )
  .map(([what, whom]) => `${what} ${whom}`);
const points = choice(
  'keep above 2',
  'keep below 4',
  'fill gaps up to 1m with last',
  'fill gaps up to 2m with zero',
  'fill gaps up to 2m with a straight line',
);
const some = <T>(of: fc.Arbitrary<T>) => fc.option(of, { nil: null });
const steps = (all: readonly (string | null)[]) => all.filter((one) => one !== null).join('\n  ');
/** What may follow when there are values: label steps, a second look over time, groups. */
const rest = fc
  .tuple(some(labels), some(across), some(fc.oneof(points, overTime)), some(across), some(choice('top 2', 'bottom 1')))
  .map(steps);
const chain = fc.oneof(
  fc
    .tuple(some(labels), some(earlier), some(overTime), rest)
    .map(([own, back, over, more]) => steps(['read level', own, back, over, more === '' ? null : more])),
  fc
    .tuple(some(labels), some(earlier), counted, rest)
    .map(([own, back, over, more]) => steps(['read runs_total', own, back, over, more === '' ? null : more])),
);
/** Bindings that cannot be ambiguous: one line for each zone. */
const bound = fc
  .tuple(chain, some(fc.constant('missing counts 0')))
  .map(([own, zero]) => steps([own.replace(/\n {2}(top|bottom) \d/g, ''), 'total for each zone', zero]));
const body = fc.oneof(
  { weight: 3, arbitrary: chain },
  {
    weight: 1,
    arbitrary: fc
      .tuple(
        bound,
        bound,
        choice('a + b', 'a - b', 'a / b', 'a * b', 'smaller of (a, b)', 'larger of (a, 2 - b)', '-a / 4'),
      )
      .map(([a, b, show]) => `a = ${a}\nb = ${b}\nshow ${show}`),
  },
  {
    weight: 1,
    arbitrary: fc
      .tuple(bound, bound, fc.oneof(overTime, across), choice('a - b', 'a / b', 'a * 3'))
      .map(([a, b, more, own]) => `a = ${a}\nb = ${b}\nc = from ${own}\n  ${more}\nshow c`),
  },
);

const simple = happenings.map((all) =>
  all.map((one) => (one.is === 'gone' || one.is === 'not a number' ? { ...one, is: 'missed' as const } : one)),
);
const world = fc.tuple(
  fc.array(levels, { minLength: 1, maxLength: 4 }),
  fc.array(simple, { minLength: 1, maxLength: 3 }),
);
const LABELS = [{ zone: 'a', pod: 'p1' }, { zone: 'a', pod: 'p2' }, { zone: 'b', pod: 'p3' }, { pod: 'p4' }] as const;
const when = fc.oneof(
  fc.constant(Float64Array.of(END)),
  fc
    .tuple(fc.integer({ min: 0, max: 20 }), choice(INTERVAL, 20_000, 37_000, 60_000))
    .map(([back, step]) => grid(END - (SPAN - 40) * INTERVAL, END - back * INTERVAL, step)),
);
const close = (a: number | null, b: number | null): boolean =>
  a === null || b === null
    ? a === b
    : Object.is(a, b) ||
      (Number.isNaN(a) && Number.isNaN(b)) ||
      Math.abs(a - b) <= 1e-7 * Math.max(1, Math.abs(a), Math.abs(b));

describe('any measure', () => {
  it(
    'is what a plain evaluator makes of it, at every moment, and as its printed text',
    () => {
      fc.assert(
        fc.property(body, world, when, (text, [gauges, counters], times) => {
          const read = parseMeasure(text);
          if (!('body' in read)) throw new Error(`${read.problem.text}: ${text}`);
          const checked = checkMeasure(read.body, CATALOGUE);
          // a step that does not fit is none of this test's
          fc.pre('plan' in checked);
          const series: Record<string, SeriesIn[]> = {
            level: gauges.map((all, i) => gaugeOf(all, LABELS[i])),
            runs_total: counters.map((all, i) => counterOf(all, LABELS[i]).series),
          };
          const evaluate = () =>
            evaluateMeasure(checked.plan, {
              series: ({ of, where }) =>
                series[of.name]!.filter((one) =>
                  where.every(
                    (own) => own.is === 'is' && ((one.labels as Record<string, string>)[own.label] ?? '') === own.text,
                  ),
                ),
              histograms: () => [],
              times,
              instant: times.length === 1,
            });
          const told = evaluate();
          const plain = new Naive((name) => series[name]!, INTERVAL, times.at(-1)!).lines(read.body, [...times]);
          const valuesOf = (
            lines: readonly { labels: Readonly<Record<string, string>>; values: readonly (number | null)[] }[],
          ) =>
            lines
              .filter(({ values }) => values.some((value) => value !== null))
              .map(({ labels: own, values }) => ({ key: labelsKey(own), values }))
              .sort((a, b) => (a.key < b.key ? -1 : 1));
          const real = valuesOf(
            told.lines.map(({ labels: own, values, marks }) => ({
              labels: own,
              values: Array.from(values, (value, i) => (isThere(marks, i) ? value : null)),
            })),
          );
          const expected = valuesOf(plain);
          expect(real.map(({ key }) => key)).toEqual(expected.map(({ key }) => key));
          real.forEach(({ values, key }, n) => {
            values.forEach((value, i) => {
              const other = expected[n]!.values[i]!;
              if (!close(value, other))
                throw new Error(`${key} at ${times[i]}: ${value}, plainly ${other}; of\n${text}`);
            });
          });
          const again = parseMeasure(printMeasure(read.body));
          expect('body' in again && again.body).toEqual(read.body);
        }),
        { numRuns: RUNS },
      );
    },
    RUNS * 1000,
  );
});
