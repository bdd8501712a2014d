import { RULE_KINDS } from '@zetopsis/core/rules';
import { z } from 'zod';
import { AlertAnswer } from './now.ts';
import { EpochMs } from './time.ts';
import { Severity } from './usage.ts';

const Seconds = z.coerce
  .number<number>()
  .int()
  .min(0)
  .max(7 * 86_400, 'at most 7 days');

export const RuleChange = z.object({
  enabled: z.boolean(),
  severity: Severity,
  holdsSeconds: Seconds,
  easesSeconds: Seconds,
  /** Share of the limit; only for rules that compare with one. */
  above: z.coerce.number<number>().gt(0, 'above 0 %').max(10, 'at most 1000 %').nullable(),
});
export type RuleChange = z.infer<typeof RuleChange>;

export const RuleKind = z.enum(RULE_KINDS);
export type RuleKind = z.infer<typeof RuleKind>;
export const RuleAnswer = RuleChange.extend({
  id: z.number().int(),
  kind: RuleKind,
  name: z.string(),
  /** How many objects it looks at, and in which state they are; null for those who see only a part of them. */
  watching: z.number().int().nullable(),
  building: z.number().int().nullable(),
  raised: z.number().int(),
  judgedAt: EpochMs.nullable(),
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
});
export type DeliveryAnswer = z.infer<typeof DeliveryAnswer>;

export const RulesAnswer = z.object({
  rules: z.array(RuleAnswer),
  /** The person asking may change the rules. */
  mayChange: z.boolean(),
  /** Namespaces seen that no team owns: nobody would be told. */
  unowned: z.array(z.string()),
  history: z.array(AlertAnswer),
  deliveries: z.array(DeliveryAnswer),
  mail: z.object({ configured: z.boolean(), text: z.string() }),
});
export type RulesAnswer = z.infer<typeof RulesAnswer>;
