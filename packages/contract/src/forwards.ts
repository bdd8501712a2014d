import { LINE_LEVELS } from '@zetopsis/core/lines';
import { z } from 'zod';
import { PageAddress } from './endpoints.ts';
import { DocumentKey } from './objectNames.ts';
import { ClusterName } from './sources.ts';
import { EpochMs } from './time.ts';

export const FORWARD_SIGNALS = ['metrics', 'logs', 'traces'] as const;
export const ForwardSignal = z.enum(FORWARD_SIGNALS);
export type ForwardSignal = z.infer<typeof ForwardSignal>;
/** What is pushed goes on to another receiver of the open telemetry protocol. */
export const ForwardDocument = z.strictObject({
  title: z.string().trim().min(1, 'it has a title').max(120),
  /** Of the receiver, before /v1/…; https where what is sent is nobody else's business. */
  address: PageAddress,
  /** Certificates that vouch for it, as text; empty: those that this machine knows. */
  authority: z.string().trim().max(50_000).default(''),
  signals: z
    .array(ForwardSignal)
    .min(1, 'choose at least one')
    .max(3)
    .default([...FORWARD_SIGNALS]),
  /** What came with these push keys; none: with any, and what is read from clusters. */
  keys: z.array(DocumentKey).max(100).default([]),
  /** What is about these clusters; none: about any, and about what is outside. */
  clusters: z.array(ClusterName).max(100).default([]),
  /** Log lines of this level and graver ones; null: all. */
  leastLevel: z.enum(LINE_LEVELS).nullable().default(null),
  /** Steps that failed, and no others. */
  failedOnly: z.boolean().default(false),
  /** What may wait while the receiver is away; the oldest is thrown away first. */
  backlogMegabytes: z.coerce.number<number>().int('whole megabytes').min(1, 'at least 1').max(10_000).default(256),
  use: z.enum(['on', 'off']).default('on'),
  note: z.string().trim().max(2000).default(''),
});
export type ForwardDocument = z.infer<typeof ForwardDocument>;
export const ForwardInput = z.strictObject({
  document: ForwardDocument,
  /** What the receiver is shown; null: as before; empty: nothing. */
  secret: z.string().max(4000).nullable().default(null),
});
export type ForwardInput = z.infer<typeof ForwardInput>;

export const ForwardState = z.object({
  /** Requests, their items and their bytes that are not taken yet, and since when the oldest waits. */
  waiting: z.object({
    requests: z.number().int(),
    items: z.number().int(),
    bytes: z.number().int(),
    since: EpochMs.nullable(),
  }),
  /** Items since the start: taken there, refused there for good, thrown away here as there was no room. */
  sent: z.number().int(),
  refused: z.number().int(),
  dropped: z.number().int(),
  lastSentAt: EpochMs.nullable(),
  /** Why it does not go on; null: it does. */
  trouble: z.object({ why: z.string(), since: EpochMs }).nullable(),
  /** What the receiver said of what it refused last; null: nothing was. */
  refusal: z.string().nullable(),
});
export type ForwardState = z.infer<typeof ForwardState>;
export const ForwardsAnswer = z.object({
  forwards: z.array(
    z.object({
      key: z.string(),
      document: z.custom<ForwardDocument>((value) => ForwardDocument.safeParse(value).success, 'nothing goes on so'),
      /** It has a secret that fits its address. */
      proves: z.boolean(),
      state: ForwardState,
    }),
  ),
  keys: z.array(z.string()),
  clusters: z.array(z.string()),
});
export type ForwardsAnswer = z.infer<typeof ForwardsAnswer>;
/** How the receiver answered an empty request of each kind. */
export const ForwardTest = z.object({
  answers: z.array(z.object({ signal: ForwardSignal, taken: z.boolean(), words: z.string() })),
});
export type ForwardTest = z.infer<typeof ForwardTest>;
