import { z } from 'zod';
import { CriticalityIs } from './criticality.ts';
import { Mark, RunningOutLine } from './sheet.ts';
import { EpochMs } from './time.ts';
import { Finding, ResourceName, Severity, UsageRow } from './usage.ts';

const Told = z.object({
  to: z.string(),
  state: z.enum(['waiting', 'sent', 'dead']),
  at: EpochMs.nullable(),
  error: z.string().nullable(),
});
export const AlertAnswer = z.object({
  id: z.number().int(),
  rule: z.string(),
  ruleKey: z.string(),
  /** Its rule was on trial: it was judged, and told to nobody. */
  trial: z.boolean(),
  /** Why nobody was told: the reason of a hush; null where it was not kept quiet. */
  hushed: z.string().nullable(),
  /** Who looks after it. */
  taken: z.object({ by: z.string(), at: EpochMs, note: z.string() }).nullable(),
  /** The person asking may take it. */
  mayTake: z.boolean(),
  severity: Severity,
  title: z.string(),
  path: z.array(z.string()),
  team: z.string().nullable(),
  since: EpochMs,
  raisedAt: EpochMs,
  endedAt: EpochMs.nullable(),
  endedHow: z.string().nullable(),
  unseenSince: EpochMs.nullable(),
  easingSince: EpochMs.nullable(),
  value: z.string(),
  limit: z.string(),
  reason: z.string(),
  evidence: z.string(),
  changed: z.string().nullable(),
  nextStep: z.string(),
  told: z.array(Told),
});
export type AlertAnswer = z.infer<typeof AlertAnswer>;

/** Null: given back. */
export const TakeInput = z.object({ note: z.string().trim().max(500).nullable() });
export type TakeInput = z.infer<typeof TakeInput>;

export const NowAnswer = z.object({
  at: EpochMs,
  alerts: z.array(AlertAnswer),
  failing: z.array(
    z.object({
      path: z.array(z.string()),
      team: z.string().nullable(),
      finding: Finding,
      /** How much hangs on the place. */
      criticality: CriticalityIs,
      more: z.number().int(),
    }),
  ),
  tightest: z.array(
    z.object({ path: z.array(z.string()), team: z.string().nullable(), resource: ResourceName, row: UsageRow }),
  ),
  /** Soonest first; null where it is not told: of the past, and before it was looked at. */
  runningOut: z
    .object({
      lines: z.array(RunningOutLine),
      /** What was looked at and does not run out within 90 days, and of what too little is known. */
      later: z.number().int(),
      unknown: z.number().int(),
    })
    .nullable(),
  changed: z.array(Mark),
  blind: z.array(z.object({ what: z.string(), reason: z.string(), since: EpochMs, nextStep: z.string().nullable() })),
  connections: z.number().int(),
  endpoints: z.object({ read: z.number().int(), all: z.number().int() }),
});
export type NowAnswer = z.infer<typeof NowAnswer>;
