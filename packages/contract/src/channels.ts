import { templateProblem } from '@zetopsis/core/rules';
import { z } from 'zod';
import { PageAddress } from './endpoints.ts';
import { DocumentKey } from './objectNames.ts';
import { EpochMs } from './time.ts';

export const CHANNEL_DOES = ['tell', 'act', 'heartbeat'] as const;
export type ChannelDoes = (typeof CHANNEL_DOES)[number];
/** A program that is told what a team is told: by a POST of JSON. */
export const ChannelDocument = z.strictObject({
  name: z.string().trim().min(1, 'a channel has a name').max(60),
  team: DocumentKey,
  address: PageAddress,
  /** JSON whose texts name fields of the message in braces; null: the message as it is documented. */
  template: z
    .string()
    .trim()
    .max(4000, 'at most 4000 characters')
    .superRefine((text, context) => {
      const problem = templateProblem(text);
      if (problem !== null) context.addIssue({ code: 'custom', message: problem });
    })
    .nullable()
    .default(null),
  /**
   * tell: each message. act: once for each alert that is raised, and its answer is kept. heartbeat: again and again, as long as
   * rules are judged and messages are sent.
   */
  does: z.enum(CHANNEL_DOES).default('tell'),
  /** Of a heartbeat. */
  everyMinutes: z.coerce
    .number<number>()
    .int('whole numbers')
    .min(1, 'at least 1 min')
    .max(1440, 'at most a day')
    .default(5),
  use: z.enum(['on', 'off']).default('on'),
  /** No more than so many a minute: what is more waits. */
  perMinute: z.coerce.number<number>().int('whole numbers').min(1, 'at least 1').max(600, 'at most 600').default(60),
});
export type ChannelDocument = z.infer<typeof ChannelDocument>;

export const ChannelInput = z.strictObject({
  document: ChannelDocument,
  /** What messages are signed with; null: as before; empty: none. */
  secret: z.string().max(500).nullable().default(null),
});
export type ChannelInput = z.infer<typeof ChannelInput>;

const KeptChannel = z.custom<ChannelDocument>(
  (value) => ChannelDocument.safeParse(value).success,
  'this is no channel',
);
export const ChannelsAnswer = z.object({
  channels: z.array(
    z.object({
      key: z.string(),
      document: KeptChannel,
      owner: z.string().nullable(),
      /** It has a secret that fits its address. */
      signs: z.boolean(),
      mayChange: z.boolean(),
      waiting: z.number().int(),
      lastSentAt: EpochMs.nullable(),
      lastError: z.string().nullable(),
    }),
  ),
});
export type ChannelsAnswer = z.infer<typeof ChannelsAnswer>;
