import { z } from 'zod';
import { AlertAnswer } from './now.ts';
import { DocumentKey } from './objectNames.ts';
import { RuleSelector } from './ruleConditions.ts';
import { EpochMs, Moment, Weekly } from './time.ts';

const HushTimes = z.discriminatedUnion('is', [
  z.strictObject({ is: z.literal('once'), from: Moment, to: Moment }),
  Weekly.extend({ is: z.literal('weekly') }),
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
