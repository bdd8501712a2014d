import { WEEKDAYS } from '@zetopsis/core/rules';
import { z } from 'zod';
import { AlertAnswer } from './now.ts';
import { DocumentKey } from './objectNames.ts';
import { RuleSelector } from './rules.ts';
import { EpochMs } from './time.ts';

const Moment = z
  .string()
  .max(40)
  .refine(
    (text) => /^\d{4}-\d\d-\d\dT/.test(text) && /(Z|[+-]\d\d:\d\d)$/.test(text) && !Number.isNaN(Date.parse(text)),
    {
      message: 'a moment is written such as 2026-11-30T22:00:00Z',
    },
  );
const Clock = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time of day is written such as 22:00');
const Zone = z
  .string()
  .max(60)
  .refine(
    (zone) => {
      try {
        return new Intl.DateTimeFormat('en', { timeZone: zone }).resolvedOptions().timeZone !== '';
      } catch {
        return false;
      }
    },
    { message: 'this is no time zone: Europe/Oslo, UTC' },
  );
const HushTimes = z.discriminatedUnion('is', [
  z.strictObject({ is: z.literal('once'), from: Moment, to: Moment }),
  z.strictObject({
    is: z.literal('weekly'),
    zone: Zone.default('UTC'),
    days: z.array(z.enum(WEEKDAYS)).min(1, 'at least one day').max(7),
    from: Clock,
    to: Clock,
  }),
  z.strictObject({ is: z.literal('maintenance') }),
]);

/** A planned time in which rules are judged, and nobody is told. */
export const HushDocument = z
  .strictObject({
    reason: z.string().trim().min(1, 'a hush has a reason').max(300),
    /** Whose it is; null: the platform's, which keeps everything quiet. A team's keeps quiet what would be told to the team. */
    team: DocumentKey.nullable().default(null),
    /** Of these rules; empty: of all. */
    rules: z.array(DocumentKey).max(200).default([]),
    applies: RuleSelector.prefault({}),
    when: HushTimes,
  })
  .superRefine(({ when }, context) => {
    if (when.is === 'once' && Date.parse(when.to) <= Date.parse(when.from))
      context.addIssue({ code: 'custom', path: ['when', 'to'], message: 'it ends before it begins' });
  });
export type HushDocument = z.infer<typeof HushDocument>;

/** As it is kept: with everything that may be left out when it is written. */
const KeptHush = z.custom<HushDocument>((value) => HushDocument.safeParse(value).success, 'this is no hush');
export const HushAnswer = z.object({
  key: z.string(),
  document: KeptHush,
  /** Whose it is: a team's name, or null for the platform's. */
  owner: z.string().nullable(),
  state: z.enum(['planned', 'quiet now', 'over']),
  mayChange: z.boolean(),
  /** What it has kept quiet, as far as whoever asks may see it, newest first. */
  kept: z.array(AlertAnswer),
});
export type HushAnswer = z.infer<typeof HushAnswer>;
export const HushesAnswer = z.object({ hushes: z.array(HushAnswer), at: EpochMs });
export type HushesAnswer = z.infer<typeof HushesAnswer>;
