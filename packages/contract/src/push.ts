import { MASKED_KINDS } from '@zetopsis/core/lines';
import { UNTIED, type Untied } from '@zetopsis/core/origins';
import { z } from 'zod';
import { AttachedLabels, DropRuleDocument } from './endpoints.ts';
import { ClusterName } from './sources.ts';
import { EpochMs } from './time.ts';

/** A key with which programs push their figures; the key itself is in no document. */
export const PushDocument = z
  .strictObject({
    team: z.string().trim().max(60).nullable().default(null),
    /** What is pushed with it speaks of this cluster, and of this namespace in it. */
    cluster: ClusterName.nullable().default(null),
    namespace: z
      .string()
      .trim()
      .regex(/^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$/, 'a namespace is small letters, digits and dashes')
      .nullable()
      .default(null),
    labels: AttachedLabels,
    drop: z.array(DropRuleDocument).max(50).default([]),
    /** How often something is expected; a sender that is silent for two and a half times as long is late. */
    intervalSeconds: z.coerce
      .number<number>()
      .int('whole seconds')
      .min(1, 'at least 1 s')
      .max(3600, 'at most 1 h')
      .default(60),
    /** Addresses whose pages may push from a browser. */
    origins: z
      .array(
        z
          .string()
          .max(300)
          .refine(
            (text) => URL.canParse(text) && new URL(text).origin === text,
            'an origin is like https://ferries.example',
          ),
      )
      .max(20)
      .default([]),
    /** What is kept of traces: all, or all that failed or took so long and one in so many of the rest. */
    sampling: z
      .strictObject({
        oneIn: z.coerce.number<number>().int('whole numbers').min(2, 'at least 2').max(10_000, 'at most 10,000'),
        slowSeconds: z.coerce.number<number>().min(0.001, 'at least 0.001 s').max(3600, 'at most 1 h'),
      })
      .nullable()
      .default(null),
    use: z.enum(['on', 'off']).default('on'),
  })
  .refine(({ cluster, namespace }) => namespace === null || cluster !== null, {
    path: ['namespace'],
    message: 'a namespace is one of a cluster: choose it too',
  });
export type PushDocument = z.infer<typeof PushDocument>;

const Counted = z.object({ why: z.string(), count: z.number().int() });
const UNTIED_CODES = Object.keys(UNTIED) as [Untied, ...Untied[]]; // it has some
const PushKeyAnswer = z.object({
  key: z.string(),
  document: PushDocument,
  /** When its token was made; null when it has none. */
  tokenAt: EpochMs.nullable(),
  lastUsedAt: EpochMs.nullable(),
  /** The token before, while it is valid beside the newest. */
  before: z.object({ until: EpochMs, usedAt: EpochMs.nullable() }).nullable(),
  /** Who pushed with it: each is an endpoint. */
  senders: z.number().int(),
  late: z.number().int(),
  /** Since the start: pushes, those among them that had been taken before, points and lines that were refused, lines that were taken. */
  pushes: z.number().int(),
  again: z.number().int(),
  refused: z.number().int(),
  refusals: z.array(Counted),
  lines: z.number().int(),
  spans: z.number().int(),
  /** Lines and spans that stand at no pod and no node. */
  untied: z.array(z.object({ why: z.enum(UNTIED_CODES), count: z.number().int() })),
  /** What was masked in them, by kind. */
  masked: z.record(z.enum(MASKED_KINDS), z.number().int()),
});
export type PushKeyAnswer = z.infer<typeof PushKeyAnswer>;
export const PushKeysAnswer = z.object({
  keys: z.array(PushKeyAnswer),
  /** Where to push to, as seen from outside. */
  address: z.string(),
});
export type PushKeysAnswer = z.infer<typeof PushKeysAnswer>;
/** The token is shown this once. */
export const NewPushToken = z.object({ key: z.string(), token: z.string() });
export type NewPushToken = z.infer<typeof NewPushToken>;
