import fc from 'fast-check';
import {
  ACROSS,
  type Across,
  AMOUNT_UNITS,
  type Amount,
  type Binding,
  type Body,
  type Chain,
  type Condition,
  DURATION_UNITS,
  type Duration,
  type Expression,
  OPERATORS,
  OVER_TIME,
  type Source,
  type Step,
  type Stretch,
} from '../src/measures/index.ts';

const word = fc.stringMatching(/^[a-z_][a-z0-9_]{0,8}$/);
/** Words of the language are names as any other. */
const keyword = fc.constantFrom(
  'read',
  'show',
  'from',
  'where',
  'total',
  'over',
  'as',
  'smaller',
  'paired',
  'by',
  'vital',
  'is',
);
const longName = fc.oneof(
  { weight: 4, arbitrary: fc.stringMatching(/^[a-zA-Z_][a-zA-Z0-9_:.]{0,12}$/) },
  { weight: 1, arbitrary: keyword },
  { weight: 1, arbitrary: fc.string({ minLength: 1, maxLength: 12, unit: 'grapheme' }) },
);
const text = fc.oneof(fc.string({ maxLength: 12, unit: 'grapheme' }), fc.constantFrom('a "b" \\ c', 'two\nlines', ''));
const value = fc.oneof(
  fc.nat(5000),
  fc.double({ min: 0, max: 1e22, noNaN: true }).map((own) => (own === 0 ? 0 : own)),
);
const amount = fc.record({ value, unit: fc.option(fc.constantFrom(...AMOUNT_UNITS)) }) satisfies fc.Arbitrary<Amount>;
const signed: fc.Arbitrary<Amount> = fc
  .tuple(amount, fc.boolean())
  .map(([own, minus]) => (minus && own.value !== 0 ? { ...own, value: -own.value } : own));
const duration: fc.Arbitrary<Duration> = fc.record({
  value: fc.oneof(fc.integer({ min: 1, max: 90 }), fc.double({ min: 0.1, max: 50, noNaN: true })),
  unit: fc.constantFrom(...DURATION_UNITS),
});
const zone = fc.constantFrom('UTC', 'Europe/Oslo', 'America/New_York', 'Etc/GMT+5');
const stretch: fc.Arbitrary<Stretch> = fc.oneof(
  fc.record({ over: duration }),
  fc.record({ by: fc.constantFrom('hour' as const, 'day' as const, 'week' as const), zone }),
);
const labels = fc.array(longName, { minLength: 1, maxLength: 3 });
const across: fc.Arbitrary<Across> = fc.oneof(fc.record({ each: labels }), fc.constant({ overall: true as const }));
const pattern = fc.constantFrom('a/b', '[0-9]+', 'x\\d|y', 'https:', 'a\\.b', '');
const condition: fc.Arbitrary<Condition> = fc.oneof(
  fc.record({
    label: longName,
    is: fc.constantFrom(
      'is' as const,
      'is not' as const,
      'contains' as const,
      'starts with' as const,
      'ends with' as const,
    ),
    text,
  }),
  fc.record({ label: longName, is: fc.constantFrom('matches' as const, 'does not match' as const), text: pattern }),
  fc.record({
    label: longName,
    is: fc.constantFrom('is any of' as const, 'is none of' as const),
    texts: fc.array(text, { minLength: 1, maxLength: 3 }),
  }),
  fc.record({ label: longName, is: fc.constantFrom('is present' as const, 'is missing' as const) }),
);
const where = fc.array(condition, { minLength: 1, maxLength: 3 });
const percentile = fc.integer({ min: 0, max: 100 });
const bare: fc.Arbitrary<Step> = fc.oneof(
  fc.record({ step: fc.constant('where' as const), where }),
  fc.record({
    step: fc.constantFrom('treat as counter' as const, 'whatever the scope' as const, 'missing counts 0' as const),
  }),
  fc.record({
    step: fc.constantFrom('growth' as const, 'per second' as const, 'change' as const, 'slope' as const),
    stretch,
  }),
  fc.record({ step: fc.constant('over time' as const), what: fc.constantFrom(...OVER_TIME), stretch }),
  fc.record({ step: fc.constant('percentile over time' as const), percentile, stretch }),
  fc.record({ step: fc.constantFrom('time above' as const, 'time below' as const), bound: signed, stretch }),
  fc.record({ step: fc.constant('across' as const), what: fc.constantFrom(...ACROSS), across }),
  fc.record({ step: fc.constant('percentile across' as const), percentile, across }),
  fc.record({ step: fc.constant('percentile of buckets' as const), percentile, across: fc.option(across) }),
  fc.record({ step: fc.constant('share below of buckets' as const), bound: signed, across: fc.option(across) }),
  fc.record({ step: fc.constant('satisfaction' as const), target: amount, across: fc.option(across) }),
  fc.record({ step: fc.constantFrom('top' as const, 'bottom' as const), count: fc.integer({ min: 1, max: 99 }) }),
  fc.record({ step: fc.constantFrom('keep above' as const, 'keep below' as const), bound: signed }),
  fc.record({ step: fc.constant('earlier' as const), by: duration }),
  fc.record({ step: fc.constant('add labels' as const), labels }),
  fc.record({ step: fc.constant('rename label' as const), label: longName, to: longName }),
  fc.record({ step: fc.constant('shorten label' as const), label: longName, pattern }),
  fc.record({ step: fc.constant('called' as const), template: text }),
  fc.record({
    step: fc.constant('fill gaps' as const),
    upTo: duration,
    with: fc.constantFrom('last' as const, 'zero' as const, 'a straight line' as const),
  }),
  fc.record({ step: fc.constant('forecast' as const), ahead: duration, from: duration, rhythm: fc.boolean() }),
  fc.record({ step: fc.constant('time until' as const), bound: signed, from: duration }),
  fc.record({ step: fc.constant('usual' as const), from: duration, zone: fc.option(zone) }),
);
const comments = fc.array(
  fc.string({ maxLength: 20 }).map((own) => own.replaceAll(/\s+/g, ' ').trim()),
  { minLength: 1, maxLength: 2 },
);
const maybe = <T extends object>(own: fc.Arbitrary<T>): fc.Arbitrary<T> =>
  fc
    .tuple(own, fc.option(comments, { freq: 4 }))
    .map(([one, told]) => (told === null ? one : { ...one, comments: told }));

const { expression } = fc.letrec<{ expression: Expression }>((tie) => ({
  expression: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    fc.record({ is: fc.constant('name' as const), name: fc.oneof(word, keyword) }),
    fc.record({ is: fc.constant('number' as const), amount }),
    fc.record({ is: fc.constant('minus' as const), of: tie('expression') }),
    fc.record({
      is: fc.constant('operator' as const),
      operator: fc.constantFrom(...OPERATORS),
      left: tie('expression'),
      right: tie('expression'),
      pairedBy: fc.option(labels),
    }),
    fc.record({
      is: fc.constantFrom('smaller' as const, 'larger' as const),
      left: tie('expression'),
      right: tie('expression'),
    }),
  ),
}));
const source: fc.Arbitrary<Source> = fc.oneof(
  fc.record({ is: fc.constant('metric' as const), name: longName }),
  fc.record({ is: fc.constant('vital' as const), name: longName }),
  fc.record({ is: fc.constant('measure' as const), title: text }),
);
const steps = fc.array(maybe(bare), { maxLength: 4 });
const read: fc.Arbitrary<Chain> = fc.record({ source, steps });
const chain: fc.Arbitrary<Chain> = fc.oneof(
  { weight: 3, arbitrary: read },
  { weight: 1, arbitrary: fc.record({ source: fc.record({ is: fc.constant('from' as const), expression }), steps }) },
);
const binding: fc.Arbitrary<Binding> = maybe(fc.record({ name: fc.oneof(word, keyword), chain }));
/** Any tree that the schema lets through, whether it means something or not. */
export const anyBody: fc.Arbitrary<Body> = maybe(
  fc.oneof(
    fc.record({
      bindings: fc.array(binding, { maxLength: 3 }),
      result: maybe(
        fc.record({
          is: fc.constant('show' as const),
          expression,
          as: fc.option(fc.oneof(fc.constantFrom('percent', 'per second', 'bytes', 'per'), longName)),
        }),
      ),
    }),
    fc.record({
      bindings: fc.constant([]),
      result: maybe(fc.record({ is: fc.constant('chain' as const), chain: read })),
    }),
  ),
);
