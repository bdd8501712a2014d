import {
  ACROSS,
  AMOUNT_UNITS,
  DURATION_UNITS,
  type Expression as ExpressionTree,
  LONGEST_BODY,
  OPERATORS,
  OVER_TIME,
  parseMeasure,
  type Body as Tree,
} from '@zetopsis/core/measures';
import { z } from 'zod';

/** A measure's body as a tree: what its text is read into, and printed from. */

const MOST_PARTS = 60;
const Name = z
  .string()
  .regex(/^[A-Za-z_][A-Za-z0-9_]*$/, 'a letter or _, then letters, digits and _')
  .max(100);
const LongName = z.string().min(1, 'at least one letter').max(300);
const Text = z.string().max(1000);
/** One line, without blanks around it: as it is read back from its text. */
const Comments = z
  .array(
    z
      .string()
      .max(1000)
      .regex(/^(\S([^\n\r]*\S)?)?$/, 'one line without blanks around it'),
  )
  .max(MOST_PARTS)
  .optional();
const Duration = z.strictObject({ value: z.number().positive('more than 0'), unit: z.enum(DURATION_UNITS) });
const Amount = z.strictObject({ value: z.number(), unit: z.enum(AMOUNT_UNITS).nullable() });
const Unsigned = z.strictObject({
  value: z.number().min(0, 'a sign is an operator'),
  unit: z.enum(AMOUNT_UNITS).nullable(),
});
const Percentile = z.number().min(0, 'at least 0').max(100, 'at most 100');
/** A slash is written without the backslash that it has between slashes. */
const Pattern = z
  .string()
  .max(1000)
  .refine((text) => !/\\\//.test(text), 'a slash needs no backslash here');
const Condition = z.union([
  z.strictObject({
    label: LongName,
    is: z.enum(['is', 'is not', 'contains', 'starts with', 'ends with']),
    text: Text,
  }),
  z.strictObject({ label: LongName, is: z.enum(['matches', 'does not match']), text: Pattern }),
  z.strictObject({ label: LongName, is: z.enum(['is any of', 'is none of']), texts: z.array(Text).min(1).max(1000) }),
  z.strictObject({ label: LongName, is: z.enum(['is present', 'is missing']) }),
]);
const Where = z.array(Condition).min(1).max(MOST_PARTS);
const Labels = z.array(LongName).min(1).max(MOST_PARTS);
const Stretch = z.union([
  z.strictObject({ over: Duration }),
  z.strictObject({ by: z.enum(['hour', 'day', 'week']), zone: z.string().min(1).max(60) }),
]);
const Across = z.union([z.strictObject({ each: Labels }), z.strictObject({ overall: z.literal(true) })]);
const step = <N extends string, S extends z.ZodRawShape>(name: N, shape: S) =>
  z.strictObject({ step: z.literal(name), comments: Comments, ...shape });
const Step = z.discriminatedUnion('step', [
  step('where', { where: Where }),
  step('treat as counter', {}),
  step('whatever the scope', {}),
  step('growth', { stretch: Stretch }),
  step('per second', { stretch: Stretch }),
  step('change', { stretch: Stretch }),
  step('slope', { stretch: Stretch }),
  step('over time', { what: z.enum(OVER_TIME), stretch: Stretch }),
  step('percentile over time', { percentile: Percentile, stretch: Stretch }),
  step('time above', { bound: Amount, stretch: Stretch }),
  step('time below', { bound: Amount, stretch: Stretch }),
  step('across', { what: z.enum(ACROSS), across: Across }),
  step('percentile across', { percentile: Percentile, across: Across }),
  step('percentile of buckets', { percentile: Percentile, across: Across.nullable() }),
  step('share below of buckets', { bound: Amount, across: Across.nullable() }),
  step('satisfaction', { target: Unsigned, across: Across.nullable() }),
  step('top', { count: z.number().int().min(1).max(10_000) }),
  step('bottom', { count: z.number().int().min(1).max(10_000) }),
  step('keep above', { bound: Amount }),
  step('keep below', { bound: Amount }),
  step('earlier', { by: Duration }),
  step('add labels', { labels: Labels }),
  step('rename label', { label: LongName, to: LongName }),
  step('shorten label', { label: LongName, pattern: Pattern }),
  step('called', { template: Text }),
  step('fill gaps', { upTo: Duration, with: z.enum(['last', 'zero', 'a straight line']) }),
  step('missing counts 0', {}),
  step('forecast', { ahead: Duration, from: Duration, rhythm: z.boolean() }),
  step('time until', { bound: Amount, from: Duration }),
  step('usual', { from: Duration, zone: z.string().min(1).max(60).nullable() }),
]);
const Expression: z.ZodType<ExpressionTree> = z.lazy(() =>
  z.discriminatedUnion('is', [
    z.strictObject({ is: z.literal('name'), name: Name }),
    z.strictObject({ is: z.literal('number'), amount: Unsigned }),
    z.strictObject({ is: z.literal('minus'), of: Expression }),
    z.strictObject({
      is: z.literal('operator'),
      operator: z.enum(OPERATORS),
      left: Expression,
      right: Expression,
      pairedBy: Labels.nullable(),
    }),
    z.strictObject({ is: z.enum(['smaller', 'larger']), left: Expression, right: Expression }),
  ]),
);
const Source = z.discriminatedUnion('is', [
  z.strictObject({ is: z.literal('metric'), name: LongName }),
  z.strictObject({ is: z.literal('vital'), name: LongName }),
  z.strictObject({ is: z.literal('measure'), title: Text }),
  z.strictObject({ is: z.literal('from'), expression: Expression }),
]);
const Chain = z.strictObject({ source: Source, steps: z.array(Step).max(MOST_PARTS) });
/** Parts in parts: no body that means something is nested deeper, and deeper ones are refused unread. */
const DEEPEST = 240;
function isShallow(value: unknown): boolean {
  const open: { readonly value: unknown; readonly depth: number }[] = [{ value, depth: 0 }];
  for (let next = open.pop(); next !== undefined; next = open.pop()) {
    if (next.depth > DEEPEST) return false;
    if (typeof next.value !== 'object' || next.value === null) continue;
    for (const part of Object.values(next.value)) open.push({ value: part, depth: next.depth + 1 });
  }
  return true;
}
const Body = z.strictObject({
  bindings: z.array(z.strictObject({ name: Name, chain: Chain, comments: Comments })).max(MOST_PARTS),
  result: z.discriminatedUnion('is', [
    z.strictObject({ is: z.literal('chain'), chain: Chain, comments: Comments }),
    z.strictObject({ is: z.literal('show'), expression: Expression, as: LongName.nullable(), comments: Comments }),
  ]),
  comments: Comments,
});
// optional comments that are absent, never undefined: JSON has no such
export const MeasureBody = z.unknown().refine(isShallow, 'nested too deep').pipe(Body) as z.ZodType<Tree>;
const MeasureText = z.string().max(LONGEST_BODY, `at most ${LONGEST_BODY} characters`);
/** One that is kept: it can be read, whatever there is to read at present. */
export const WrittenMeasure = MeasureText.superRefine((text, context) => {
  const read = parseMeasure(text);
  if ('body' in read) return;
  const { at, text: words, nearest } = read.problem;
  const place = at === null ? '' : `line ${at.line}, column ${at.column}: `;
  context.addIssue({
    code: 'custom',
    message: `${place}${words}${nearest === null ? '' : `; “${nearest}” is the nearest`}`,
  });
});

const Moment = z.number().int().min(0).max(8_640_000_000_000);
const MOST_POINTS = 1000;
/** A measure as text or as a tree, over a window or at one moment. */
export const MeasureInput = z
  .strictObject({
    text: MeasureText.optional(),
    tree: MeasureBody.optional(),
    from: Moment.optional(),
    to: Moment.optional(),
    /** Milliseconds; left out, it is chosen so that there are a few hundred points. */
    step: z.number().int().min(1000).optional(),
    at: Moment.optional(),
    /** A cluster, or a namespace in it. */
    in: z.array(z.string().min(1).max(400)).max(2).default([]),
    /** Every step as well. */
    explain: z.boolean().default(false),
    /** Every line and every point of it, as long as the answer takes; else so many as can be looked at. */
    all: z.boolean().default(false),
  })
  .refine(({ text, tree }) => (text === undefined) !== (tree === undefined), {
    message: 'send a text or a tree, one of both',
    path: ['text'],
  })
  .refine(({ from, to, at }) => (at === undefined) === (from !== undefined && to !== undefined), {
    message: 'send from and to, or at',
    path: ['from'],
  })
  .refine(({ from, to }) => from === undefined || to === undefined || to > from, {
    message: 'the window ends before it begins',
    path: ['to'],
  })
  .refine(
    ({ from, to, step }) =>
      step === undefined || from === undefined || to === undefined || (to - from) / step <= MOST_POINTS,
    {
      message: `a line has at most ${MOST_POINTS} points: choose a longer step, or a shorter window`,
      path: ['step'],
    },
  );
const Point = z.union([
  z.tuple([z.number(), z.number().nullable()]),
  z.tuple([
    z.number(),
    z.number().nullable(),
    z.array(z.enum(['partial', 'at least', 'filled', 'not a number', 'infinite', '-infinite'])),
  ]),
]);
/** Observations up to each bound, one list a bound, one entry a moment; a bound that is null is infinite. */
const BucketsAnswer = z.object({
  bounds: z.array(z.number().nullable()),
  counts: z.array(z.array(z.number().nullable())),
  /** Between two bounds values lie logarithmically. */
  exponential: z.boolean(),
});
const MeasureLines = z.object({
  series: z.array(
    z.object({
      labels: z.record(z.string(), z.string()),
      name: z.string().nullable(),
      unit: z.string(),
      points: z.array(Point),
      /** What a forecast or the usual lies between, eight times of ten. */
      band: z.array(z.tuple([z.number(), z.number().nullable(), z.number().nullable()])).optional(),
      /** Of a histogram; its points have no values. */
      buckets: BucketsAnswer.optional(),
    }),
  ),
  /** Lines beyond the answer's limit. */
  left: z.number().int(),
});
/** One step as it is written, and what it made. `series`: some of its lines. */
const MeasureStep = MeasureLines.extend({
  /** The binding that it stands in; null: what is shown. */
  binding: z.string().nullable(),
  text: z.string(),
  kind: z.enum(['counter', 'gauge', 'histogram', 'number']),
  /** Of a step that reads. */
  read: z.object({ series: z.number().int(), samples: z.number().int() }).nullable(),
  lines: z.number().int(),
  /** Points with a value, those without, and what is special about some. */
  points: z.object({
    there: z.number().int(),
    none: z.number().int(),
    partial: z.number().int(),
    atLeast: z.number().int(),
    filled: z.number().int(),
  }),
  /** Milliseconds, without those of the steps before. */
  took: z.number(),
});
/** A measured value that led to a trace: an exemplar of a series that was read. */
const MeasureExample = z.object({
  at: z.number(),
  value: z.number(),
  labels: z.record(z.string(), z.string()),
});
export const MeasureAnswer = MeasureLines.extend({
  text: z.string(),
  shownAs: z.string().nullable(),
  read: z.object({ series: z.number().int(), samples: z.number().int(), resolution: z.string() }),
  notes: z.array(z.string()),
  /** Why nothing is drawn; null where something is. */
  nothing: z.string().nullable(),
  /** As they are written, when they were asked for. */
  steps: z.array(MeasureStep),
  /** Newest first, of histograms that were read. */
  examples: z.array(MeasureExample),
  took: z.number(),
});
export type MeasureAnswer = z.infer<typeof MeasureAnswer>;
/** Metrics by a part of their names, of what their pages say of them, or of their unit; of those that somebody may see. */
export const MetricNamesQuery = z.object({ find: z.string().trim().max(200).default('') });
/** Labels of what is read under a name; with a label, the values that occur of it. */
export const MetricLabelsQuery = z.object({
  of: z.enum(['metric', 'vital']),
  name: z.string().min(1).max(300),
  label: z.string().max(300).default(''),
});
export const MetricLabelsAnswer = z.object({ labels: z.array(z.string()), values: z.array(z.string()) });
export type MetricLabelsAnswer = z.infer<typeof MetricLabelsAnswer>;
export const MetricNamesAnswer = z.object({
  metrics: z.array(
    z.object({
      name: z.string(),
      type: z.enum(['counter', 'gauge', 'histogram']),
      unit: z.string(),
      series: z.number().int(),
      /** What its page says of it; empty: nothing. */
      help: z.string(),
      /** Which endpoints it is read from, in words. */
      from: z.string(),
      /** Of one of its series, lately: its newest value, and its course; of a counter by the second. */
      last: z.number().nullable(),
      trace: z.array(z.number().nullable()),
      /** A measure that suits it. */
      text: z.string(),
    }),
  ),
  left: z.number().int(),
});
export type MetricNamesAnswer = z.infer<typeof MetricNamesAnswer>;
