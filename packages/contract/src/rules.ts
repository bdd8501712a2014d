import { CRITICALITIES, FINDING_CODES } from '@zetopsis/core/findings';
import { INVENTORY_KINDS, type InventoryKind } from '@zetopsis/core/inventory';
import {
  COMPARES,
  CONDITION_KINDS,
  type ConditionKind,
  type ConditionOf,
  conditionOf,
  EXPECTED_KINDS,
  OBJECT_CHANGES,
  RULE_LEVELS,
  sayingProblem,
  UNUSUAL_SIDES,
} from '@zetopsis/core/rules';
import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';
import { z } from 'zod';
import { RowNumber } from './access.ts';
import { WrittenMeasure } from './measures.ts';
import { AlertAnswer } from './now.ts';
import { DocumentKey, LabelKey, NamespaceName } from './objectNames.ts';
import { ClusterName } from './sources.ts';
import { EpochMs, Moment, Weekly } from './time.ts';
import { Severity } from './usage.ts';

const Seconds = z.coerce
  .number<number>()
  .int('whole seconds')
  .min(0, 'at least 0')
  .max(7 * 86_400, 'at most 7 days');
const Bound = z.coerce.number<number>().nullable().default(null);
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
const RuleCondition = z.discriminatedUnion(
  'is',
  CONDITION_KINDS.map((kind) => CONDITION_SCHEMAS[kind]) as unknown as [
    z.ZodObject<{ is: z.ZodLiteral<ConditionKind> }>,
  ],
) as unknown as z.ZodType<ConditionOf[ConditionKind]>; // a strict object of each kind, discriminated by `is`

export const RuleState = z.enum(['on', 'on trial', 'off']);
export type RuleState = z.infer<typeof RuleState>;

/** A rule of before there were levels: of one of two kinds, told by whether it compares with a share. */
function fromBefore(given: unknown): unknown {
  if (typeof given !== 'object' || given === null || !('holdsSeconds' in given)) return given;
  const { enabled, severity, holdsSeconds, easesSeconds, above, name, ...rest } = given as Record<string, unknown>;
  const level = { bound: above ?? null, holdsSeconds };
  const memory = typeof above === 'number';
  return {
    ...rest,
    name,
    state: enabled === false ? 'off' : 'on',
    when: { is: memory ? 'container memory' : 'fewer ready' },
    levels: {
      // what is found says how grave it is, at most as the rule says
      warning: severity === 'critical' && memory ? null : level,
      critical: severity === 'critical' ? level : null,
    },
    clears: { afterSeconds: easesSeconds },
  };
}

/** Fields of an object in braces, each of those that there are. */
const Template = z
  .string()
  .trim()
  .superRefine((text, context) => {
    const problem = sayingProblem(text);
    if (problem !== null) context.addIssue({ code: 'custom', message: problem });
  });
const LinkAddress = z
  .string()
  .trim()
  .max(2000)
  .refine((text) => /^https?:\/\//i.test(text) && URL.canParse(text), 'an address begins with http:// or https://');
const Rule = z
  .strictObject({
    name: z.string().trim().min(1, 'a rule has a name').max(120),
    /** Whose it is; null: the platform's, which reaches everywhere. A team's looks at what the team may see. */
    team: DocumentKey.nullable().default(null),
    /** Which team is told; null: the owner of what it is about. */
    tells: DocumentKey.nullable().default(null),
    /** On trial it is judged, and nobody is told. */
    state: RuleState.default('on'),
    applies: RuleSelector.prefault({}),
    when: RuleCondition,
    /** When it is judged at all; null: always. Outside of its hours nothing holds. */
    hours: Weekly.nullable().default(null),
    levels: z.strictObject({
      warning: RuleLevel.nullable().default(null),
      critical: RuleLevel.nullable().default(null),
    }),
    clears: z
      .strictObject({
        /** The other side of this it must be; null: of the level itself. */
        bound: Bound,
        low: Bound,
        afterSeconds: Seconds.default(0),
      })
      .prefault({}),
    /** Other numbers for some of the objects; the first that fits counts. */
    overrides: z
      .array(
        z.strictObject({
          applies: RuleSelector.prefault({}),
          warning: Bound,
          critical: Bound,
          clears: Bound,
        }),
      )
      .max(100)
      .default([]),
    /** How often it is judged; null: with each reading, and each change of what it looks at. */
    judgedSeconds: z.coerce
      .number<number>()
      .int('whole seconds')
      .min(10, 'at least 10 s')
      .max(86_400, 'at most a day')
      .nullable()
      .default(null),
    note: z.string().trim().max(2000).default(''),
    /** Of a rule of the platform: teams that asked for stricter numbers of their own, by their keys. */
    stricter: z
      .record(DocumentKey, z.strictObject({ warning: Bound, critical: Bound }))
      .refine((own) => Object.keys(own).length <= 500, 'at most 500 teams')
      .default({}),
    /** What an alert is called, and what it says, with fields of the object in braces; empty: as the kind has it. */
    title: Template.max(200).default(''),
    says: Template.max(2000).default(''),
    /** What to do: Markdown. */
    runbook: z.string().trim().max(20_000).default(''),
    /** Beside the runbook. */
    links: z
      .array(z.strictObject({ name: z.string().trim().min(1, 'a link has a name').max(60), address: LinkAddress }))
      .max(10)
      .default([]),
  })
  .superRefine(({ team, when, levels, clears, overrides, stricter }, context) => {
    const definition = conditionOf(when);
    const problem = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message });
    if (levels.warning === null && levels.critical === null)
      problem(['levels'], 'a rule has a level: warning, critical or both');
    const bounded = definition.bounded(when);
    const outside = bounded && definition.side(when) === 'outside';
    for (const level of RULE_LEVELS) {
      const own = levels[level];
      if (own === null) continue;
      if (bounded && own.bound === null) problem(['levels', level, 'bound'], 'what it compares with is missing');
      if (!bounded && own.bound !== null) problem(['levels', level, 'bound'], 'this kind compares with no number');
      if (outside && own.low === null) problem(['levels', level, 'low'], 'the lower of the two is missing');
      if (!outside && own.low !== null) problem(['levels', level, 'low'], 'this kind compares with one number');
      if (own.low !== null && own.bound !== null && own.low >= own.bound)
        problem(['levels', level, 'low'], 'the lower of the two is not below the upper');
      if (when.is === 'container memory' && own.bound !== null && (own.bound <= 0 || own.bound > 10))
        problem(['levels', level, 'bound'], 'a share of the limit: above 0, at most 10 (1000 %)');
    }
    if (!bounded && clears.bound !== null) problem(['clears', 'bound'], 'this kind compares with no number');
    const [warning, critical] = [levels.warning?.bound ?? null, levels.critical?.bound ?? null];
    const above = definition.side(when) !== 'below';
    const beyond = (a: number, b: number) => (above ? a > b : a < b);
    if (bounded && warning !== null && critical !== null && !beyond(critical, warning))
      problem(['levels', 'critical', 'bound'], `critical begins ${above ? 'above' : 'below'} where warning does`);
    const nearest = warning ?? critical;
    if (clears.bound !== null && nearest !== null && beyond(clears.bound, nearest))
      problem(['clears', 'bound'], `it clears ${above ? 'at or below' : 'at or above'} where it is raised`);
    if (outside) lowProblems({ levels, clears }, problem);
    else if (clears.low !== null) problem(['clears', 'low'], 'this kind compares with one number');
    if (Object.keys(stricter).length > 0 && (!bounded || outside || team !== null))
      problem(['stricter'], 'stricter numbers are for a rule of the platform that compares with one number');
    if (overrides.length > 0 && (!bounded || outside))
      problem(['overrides'], 'other numbers are for what compares with one');
    overrides.forEach((own, i) => {
      const [first, second] = [own.warning ?? warning, own.critical ?? critical];
      const path = ['overrides', i];
      if (own.warning === null && own.critical === null && own.clears === null)
        problem(path, 'another number is missing: warning, critical or clears');
      for (const level of RULE_LEVELS)
        if (own[level] !== null && levels[level] === null) problem([...path, level], `the rule has no level ${level}`);
      if (first !== null && second !== null && !beyond(second, first))
        problem([...path, 'critical'], `critical begins ${above ? 'above' : 'below'} where warning does`);
      const [over, lowest] = [own.clears ?? clears.bound, first ?? second];
      if (over !== null && lowest !== null && beyond(over, lowest))
        problem([...path, 'clears'], `it clears ${above ? 'at or below' : 'at or above'} where it is raised`);
    });
  });
type Edges = { readonly bound: number | null; readonly low: number | null };
/** Of what holds outside of two numbers, the lower ones: critical farther out, clear farther in. */
function lowProblems(
  {
    levels: { warning, critical },
    clears,
  }: { readonly levels: { readonly warning: Edges | null; readonly critical: Edges | null }; readonly clears: Edges },
  problem: (path: (string | number)[], message: string) => void,
): void {
  if (warning?.low != null && critical?.low != null && critical.low >= warning.low)
    problem(['levels', 'critical', 'low'], 'critical begins below where warning does');
  if ((clears.bound === null) !== (clears.low === null))
    problem(['clears', clears.bound === null ? 'bound' : 'low'], 'it clears between two numbers, or as its level');
  const nearest = warning?.low ?? critical?.low ?? null;
  if (clears.low !== null && nearest !== null && clears.low < nearest)
    problem(['clears', 'low'], 'it clears at or above where it is raised');
}
export const RuleDocument = z.preprocess(fromBefore, Rule);
export type RuleDocument = z.infer<typeof RuleDocument>;

// ---- what is asked and answered ---------------------------------------------------------------------------------

/** As it is kept: with everything that may be left out when it is written. */
const KeptRule = z.custom<RuleDocument>((value) => RuleDocument.safeParse(value).success, 'this is no rule');
export const RuleAnswer = z.object({
  key: z.string(),
  document: KeptRule,
  /** Whose it is: a team's name, or null for the platform's. */
  owner: z.string().nullable(),
  /** What its bounds are counted in, and how they are shown; null where they are shares or there are none. */
  unit: z.string().nullable(),
  shownAs: z.string().nullable(),
  /** Why it cannot be judged as it stands; null while it can. */
  problem: z.string().nullable(),
  /** The person asking may change it. */
  mayChange: z.boolean(),
  /** How many objects it looks at, and how many build towards being raised; null for those who see only a part of them. */
  matched: z.number().int().nullable(),
  building: z.number().int().nullable(),
  raised: z.number().int(),
  /** The worst that is raised. */
  worst: Severity.nullable(),
  lastRaisedAt: EpochMs.nullable(),
  judgedAt: EpochMs.nullable(),
  /** What judging it once took the last time; null before it was judged since the start. */
  tookMs: z.number().nullable(),
});
export type RuleAnswer = z.infer<typeof RuleAnswer>;

export const DeliveryAnswer = z.object({
  id: z.number().int(),
  to: z.string(),
  subject: z.string(),
  state: z.enum(['waiting', 'sent', 'dead']),
  createdAt: EpochMs,
  sentAt: EpochMs.nullable(),
  attempts: z.number().int(),
  nextAt: EpochMs.nullable(),
  error: z.string().nullable(),
  /** What a program answered to an action. */
  answer: z.string().nullable(),
  /** It was sent in one message with others. */
  together: z.boolean(),
});
export type DeliveryAnswer = z.infer<typeof DeliveryAnswer>;

export const DeliveriesQuery = z.object({
  text: z.string().trim().max(200).default(''),
  state: z.enum(['waiting', 'sent', 'dead']).optional(),
  /** Older than this one. */
  before: RowNumber.optional(),
});
export type DeliveriesQuery = z.infer<typeof DeliveriesQuery>;
export const DeliveriesAnswer = z.object({ deliveries: z.array(DeliveryAnswer), more: z.boolean() });
export type DeliveriesAnswer = z.infer<typeof DeliveriesAnswer>;

export const RulesAnswer = z.object({
  rules: z.array(RuleAnswer),
  /** Teams that the person asking may write rules for. */
  teams: z.array(z.object({ key: z.string(), name: z.string() })),
  /** And rules of the platform. */
  everywhere: z.boolean(),
  /** Namespaces seen that no team owns: nobody would be told. */
  unowned: z.array(z.string()),
  history: z.array(AlertAnswer),
  deliveries: z.array(DeliveryAnswer),
  mail: z.object({ configured: z.boolean(), text: z.string() }),
});
export type RulesAnswer = z.infer<typeof RulesAnswer>;

/** One object that a rule looks at. */
const JudgedObject = z.object({
  name: z.string(),
  path: z.array(z.string()),
  state: z.enum(['clear', 'building', 'raised', 'easing']),
  severity: Severity.nullable(),
  since: EpochMs.nullable(),
  /** Nothing was read of it since then. */
  unseenSince: EpochMs.nullable(),
  value: z.string(),
});
export const RuleSheet = z.object({
  rule: RuleAnswer,
  /** Those that something is with first. */
  objects: z.array(JudgedObject),
  left: z.number().int(),
  history: z.array(AlertAnswer),
  versions: z.array(
    z.object({
      revision: z.number().int(),
      at: EpochMs,
      by: z.string(),
      lines: z.array(z.object({ is: z.enum(['same', 'added', 'removed']), text: z.string() })),
    }),
  ),
});
export type RuleSheet = z.infer<typeof RuleSheet>;

/** A team's own numbers for a rule of the platform; both null: as the rule has them again. */
export const StricterInput = z.strictObject({ team: DocumentKey, warning: Bound, critical: Bound });
export type StricterInput = z.infer<typeof StricterInput>;
/** What a rule raised, beside what it would raise over what is kept now: data that came late makes the two differ. */
export const LateAnswer = z.object({
  from: EpochMs,
  to: EpochMs,
  same: z.number().int(),
  wouldHave: z.array(
    z.object({
      name: z.string(),
      path: z.array(z.string()),
      severity: Severity,
      since: EpochMs,
      endedAt: EpochMs.nullable(),
    }),
  ),
  wouldNotHave: z.array(
    z.object({
      title: z.string(),
      path: z.array(z.string()),
      severity: Severity,
      since: EpochMs,
      endedAt: EpochMs.nullable(),
    }),
  ),
});
export type LateAnswer = z.infer<typeof LateAnswer>;

export const RehearsalInput = z
  .object({ document: RuleDocument, from: EpochMs, to: EpochMs })
  .refine(({ from, to }) => to > from, { message: 'the window ends before it begins', path: ['to'] });
export type RehearsalInput = z.infer<typeof RehearsalInput>;
export const RehearsalAnswer = z.object({
  from: EpochMs,
  to: EpochMs,
  /** Judged every so often. */
  step: z.number(),
  /** Objects that it would have looked at. */
  objects: z.number().int(),
  /** What would have been raised, newest first. */
  raised: z.array(
    z.object({
      name: z.string(),
      path: z.array(z.string()),
      team: z.string().nullable(),
      severity: Severity,
      since: EpochMs,
      raisedAt: EpochMs,
      /** Null: it still would be. */
      endedAt: EpochMs.nullable(),
      /** The farthest that it went. */
      most: z.string(),
    }),
  ),
  left: z.number().int(),
  /** Messages: raised, worse, and clear again. */
  messages: z.object({
    all: z.number().int(),
    /** Between 22:00 and 07:00 in the zone of the server. */
    nights: z.number().int(),
    /** Of no owner: nobody would have been told. */
    unowned: z.number().int(),
    byTeam: z.array(z.object({ team: z.string(), all: z.number().int(), nights: z.number().int() })),
  }),
  /** Alerts that came back within an hour of being over. */
  flapping: z.number().int(),
  /** Raised in all, of all objects. */
  raisedMinutes: z.number(),
  /** What other thresholds would have come to, of the lowest level that is set; empty where nothing is compared. */
  curve: z.array(
    z.object({
      bound: z.number(),
      raised: z.number().int(),
      raisedMinutes: z.number(),
      /** Of the troubles: of how many nothing would have been raised. */
      missed: z.number().int(),
    }),
  ),
  /** What really was trouble then, among what it looks at: critical alerts of other rules, and stretches that people marked. */
  troubles: z.array(
    z.object({
      title: z.string(),
      path: z.array(z.string()),
      from: EpochMs,
      to: EpochMs,
      /** How long before it began the rule would have been raised; below 0: after; null: not at all. */
      lead: z.number().nullable(),
    }),
  ),
  unit: z.string().nullable(),
  shownAs: z.string().nullable(),
  notes: z.array(z.string()),
  took: z.number(),
});
export type RehearsalAnswer = z.infer<typeof RehearsalAnswer>;

/** How loud a rule was, and what would have made it quieter. */
export const NoiseAnswer = z.object({
  /** What it looked back over. */
  from: EpochMs,
  to: EpochMs,
  /** Loudest first; rules that raised nothing are left out. */
  rules: z.array(
    z.object({
      key: z.string(),
      name: z.string(),
      raised: z.number().int(),
      messages: z.number().int(),
      nights: z.number().int(),
      flapping: z.number().int(),
      shortLived: z.number().int(),
      taken: z.number().int(),
      suggestion: z
        .discriminatedUnion('is', [
          z.object({ is: z.enum(['hold longer', 'clear later']), ms: z.number(), fewer: z.number().int() }),
          z.object({ is: z.literal('on trial') }),
        ])
        .nullable(),
    }),
  ),
});
export type NoiseAnswer = z.infer<typeof NoiseAnswer>;
