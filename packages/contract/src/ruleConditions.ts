import { CRITICALITIES, FINDING_CODES } from '@zetopsis/core/findings';
import { INVENTORY_KINDS, type InventoryKind } from '@zetopsis/core/inventory';
import {
  COMPARES,
  CONDITION_KINDS,
  type ConditionKind,
  type ConditionOf,
  EXPECTED_KINDS,
  OBJECT_CHANGES,
  UNUSUAL_SIDES,
} from '@zetopsis/core/rules';
import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';
import { z } from 'zod';
import { WrittenMeasure } from './measures.ts';
import { DocumentKey, LabelKey, NamespaceName } from './objectNames.ts';
import { ClusterName } from './sources.ts';
import { Moment } from './time.ts';

export const Seconds = z.coerce
  .number<number>()
  .int('whole seconds')
  .min(0, 'at least 0')
  .max(7 * 86_400, 'at most 7 days');
export const Bound = z.coerce.number<number>().nullable().default(null);
export const RuleLevel = z.strictObject({
  /** What the condition compares with: a share of a limit, or in the unit of the measure. */
  bound: Bound,
  /** The lower of two between which it does not hold. */
  low: Bound,
  /** How long it must hold before anybody is told. */
  holdsSeconds: Seconds.default(0),
  /** Instead of a time: in how many complete readings in a row. */
  readings: z.coerce
    .number<number>()
    .int('whole numbers')
    .min(1, 'at least 1')
    .max(100, 'at most 100')
    .nullable()
    .default(null),
});
export type RuleLevel = z.infer<typeof RuleLevel>;

const SELECTED_KINDS = ['cluster', 'node', 'namespace', 'pod', 'container', ...INVENTORY_KINDS] as const;
export type SelectedKind = (typeof SELECTED_KINDS)[number];
/** Each once, in the order in which people look for them. */
export const SELECTABLE_KINDS: readonly SelectedKind[] = [...new Set<SelectedKind>(SELECTED_KINDS)];
/** `*` stands for any part of a name. */
const NameForm = z
  .string()
  .trim()
  .min(1, 'a name is missing')
  .max(253)
  .regex(
    /^[A-Za-z0-9*]([A-Za-z0-9._*-]*[A-Za-z0-9*])?$/,
    'a name is letters, digits, dots and dashes; * is any part of it',
  );

/** Which objects a rule looks at; a list that is empty leaves nothing out. */
export const RuleSelector = z.strictObject({
  clusters: z.array(ClusterName).max(50).default([]),
  /** What their clusters' environment is. */
  environments: z.array(z.string().trim().min(1).max(60)).max(20).default([]),
  namespaces: z.array(NamespaceName).max(200).default([]),
  /** Of what these teams own. */
  teams: z.array(DocumentKey).max(100).default([]),
  /** Labels that the object, its workload or its namespace bears. */
  labels: z
    .record(LabelKey, z.string().max(253))
    .refine((labels) => Object.keys(labels).length <= 20, 'at most 20 labels')
    .default({}),
  criticality: z.array(z.enum(CRITICALITIES)).max(CRITICALITIES.length).default([]),
  /** What kind of object it is. */
  kinds: z.array(z.enum(SELECTED_KINDS)).max(30).default([]),
  names: z.array(NameForm).max(100).default([]),
});
export type RuleSelector = z.infer<typeof RuleSelector>;

const Count = z.coerce.number<number>().int('whole numbers').min(0, 'at least 0').max(100_000).nullable().default(null);
/** What happened at one moment stands so long. */
const Stands = z.coerce
  .number<number>()
  .int('whole seconds')
  .min(60, 'at least 1 min')
  .max(7 * 86_400, 'at most 7 days')
  .default(3600);
const CONDITION_SCHEMAS: { readonly [K in ConditionKind]: z.ZodType<ConditionOf[K]> } = {
  'container memory': z.strictObject({ is: z.literal('container memory') }),
  'fewer ready': z.strictObject({ is: z.literal('fewer ready') }),
  finding: z.strictObject({ is: z.literal('finding'), codes: z.array(z.enum(FINDING_CODES)).max(100).default([]) }),
  measure: z.strictObject({
    is: z.literal('measure'),
    text: WrittenMeasure,
    compare: z.enum(COMPARES).default('above'),
  }),
  'running out': z.strictObject({
    is: z.literal('running out'),
    text: WrittenMeasure,
    reaches: z
      .string()
      .trim()
      .max(40)
      .regex(/^\d{1,15}(\.\d{1,9})?(%|[kKMGT]i?B|B|[num]?s|[mhdw])?$/, 'an amount is written such as 1, 100% or 20GiB')
      .default('1'),
    fromSeconds: z.coerce
      .number<number>()
      .int('whole seconds')
      .min(1800, 'at least 30 min')
      .max(60 * 86_400, 'at most 60 days')
      .default(3 * 86_400),
  }),
  unusual: z
    .strictObject({
      is: z.literal('unusual'),
      text: WrittenMeasure,
      side: z.enum(UNUSUAL_SIDES).default('either'),
      days: z.coerce.number<number>().int('whole days').min(1, 'at least 1 day').max(60, 'at most 60 days').default(14),
      quiet: z.strictObject({ from: Moment, to: Moment }).nullable().default(null),
    })
    .superRefine(({ quiet }, context) => {
      const long = quiet === null ? HOUR : Date.parse(quiet.to) - Date.parse(quiet.from);
      if (long < MINUTE * 10 || long > DAY * 7)
        context.addIssue({
          code: 'custom',
          path: ['quiet', 'to'],
          message: 'a quiet stretch is 10 min to 7 days long',
        });
    }),
  'not read': z.strictObject({ is: z.literal('not read') }),
  'cluster event': z.strictObject({
    is: z.literal('cluster event'),
    reasons: z
      .array(
        z
          .string()
          .trim()
          .regex(/^[A-Za-z0-9]{1,100}$/, 'a reason is one word, such as the events of an object show'),
      )
      .max(50)
      .default([]),
    standsSeconds: Stands,
  }),
  'object change': z.strictObject({
    is: z.literal('object change'),
    changes: z.array(z.enum(OBJECT_CHANGES)).min(1, 'made, changed or removed').max(3).default(['removed']),
    kinds: z
      .array(z.enum(INVENTORY_KINDS as [InventoryKind, ...InventoryKind[]]))
      .max(30)
      .default([]),
    standsSeconds: Stands,
  }),
  expected: z
    .strictObject({
      is: z.literal('expected'),
      kinds: z
        .array(z.enum(EXPECTED_KINDS))
        .min(1, 'of which kinds')
        .max(EXPECTED_KINDS.length)
        .default(['deployment']),
      names: z.array(NameForm).max(200).default([]),
      least: Count,
      most: Count,
      extra: z.boolean().default(false),
    })
    .superRefine(({ names, least, most, extra }, context) => {
      const problem = (path: string, message: string) => context.addIssue({ code: 'custom', path: [path], message });
      if (names.length === 0 && least === null && most === null)
        problem('names', 'what should be there: names, or how many');
      if (extra && names.length === 0) problem('extra', 'what is extra is told by the names that are expected');
      if (least !== null && most !== null && most < least) problem('most', 'at most is fewer than at least');
    }),
  itself: z.strictObject({ is: z.literal('itself') }),
};
export const RuleCondition = z.discriminatedUnion(
  'is',
  CONDITION_KINDS.map((kind) => CONDITION_SCHEMAS[kind]) as unknown as [
    z.ZodObject<{ is: z.ZodLiteral<ConditionKind> }>,
  ],
) as unknown as z.ZodType<ConditionOf[ConditionKind]>; // a strict object of each kind, discriminated by `is`
