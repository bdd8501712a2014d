import { z } from 'zod';
import { RowNumber } from './access.ts';
import { AlertAnswer } from './now.ts';
import { DocumentKey } from './objectNames.ts';
import { Bound } from './ruleConditions.ts';
import { RuleDocument } from './rules.ts';
import { EpochMs } from './time.ts';
import { Severity } from './usage.ts';

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

export const RehearsalId = z.string().regex(/^[\w-]{1,40}$/, '1 to 40 letters, digits and dashes');
export const RehearsalProgress = z.object({
  doing: z.enum(['reading', 'judging']),
  /** Of that, 0 to 1; null where nobody knows how much it will be. */
  share: z.number().min(0).max(1).nullable(),
});
export type RehearsalProgress = z.infer<typeof RehearsalProgress>;
export const RehearsalInput = z
  .object({
    document: RuleDocument,
    from: EpochMs,
    to: EpochMs,
    /** Whoever asks names it, to ask how far it is. */
    id: RehearsalId.optional(),
  })
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
  /** The lines that come farthest, of each stretch the farthest value; none where nothing is compared with a number. */
  drawn: z.object({
    times: z.array(EpochMs),
    lines: z.array(z.object({ name: z.string(), values: z.array(z.number().nullable()) })),
  }),
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
/** What a rule would have raised as it is, and as it is suggested, rehearsed alike. */
const HowLoud = z.object({ raised: z.number().int(), messages: z.number().int() });
export const QuieterAnswer = z.object({ from: EpochMs, to: EpochMs, asItIs: HowLoud, asSuggested: HowLoud });
export type QuieterAnswer = z.infer<typeof QuieterAnswer>;
