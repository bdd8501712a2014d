import { conditionOf, RULE_LEVELS, sayingProblem } from '@zetopsis/core/rules';
import { z } from 'zod';
import { DocumentKey } from './objectNames.ts';
import { Bound, RuleCondition, RuleLevel, RuleSelector, Seconds } from './ruleConditions.ts';
import { Weekly } from './time.ts';

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
