import { z } from 'zod';
import { Authority, ClusterName, EndpointAnswer } from './sources.ts';
import { EpochMs } from './time.ts';

/** Endpoints that people give by address, and scouts that find others. */

export const SourceKey = z
  .string()
  .trim()
  .regex(/^[a-z0-9]([a-z0-9-]{0,58}[a-z0-9])?$/, 'a name is 1 to 60 small letters, digits and dashes');
const LabelName = z
  .string()
  .trim()
  .regex(/^[a-zA-Z_][a-zA-Z0-9_]{0,99}$/, 'a label’s name is letters, digits and underscores');
const LabelValue = z.string().trim().max(500, 'at most 500 characters');
const atMost = (count: number) => (record: object) => Object.keys(record).length <= count;
/** Labels to attach to every series of a source. */
export const AttachedLabels = z.record(LabelName, LabelValue).default({}).refine(atMost(20), 'at most 20 labels');

export const PageAddress = z
  .string()
  .trim()
  .max(1000)
  .superRefine((text, context) => {
    const wrong = (message: string) => context.addIssue({ code: 'custom', message });
    if (!URL.canParse(text)) return wrong('this is no address; write http://host:port/path');
    const url = new URL(text);
    if (url.protocol !== 'http:' && url.protocol !== 'https:') return wrong('a page is read over http or https');
    if (url.username !== '' || url.password !== '')
      wrong('leave name and password out of the address; there are fields for them');
    if (url.hash !== '') wrong('leave out what follows the #: it is never sent');
  });
const Seconds = z.coerce.number<number>().int('whole seconds').min(1, 'at least 1 s').max(3600, 'at most 1 h');
/** Null: as the group, or all, are read. */
export const OwnInterval = Seconds.nullable().default(null);
/** What belongs together, and is read equally often: "ticketing", "buildings". */
export const GroupName = z.string().trim().max(60, 'at most 60 characters').default('');

/** How often is read what says nothing of it itself: by group, else overall. */
export const IntervalsDocument = z.strictObject({
  intervalSeconds: Seconds.default(15),
  groups: z
    .record(z.string().trim().min(1, 'a group has a name').max(60), Seconds)
    .default({})
    .refine((groups) => Object.keys(groups).length <= 200, 'at most 200 groups'),
});
export type IntervalsDocument = z.infer<typeof IntervalsDocument>;
export const IntervalsAnswer = z.object({
  document: IntervalsDocument,
  /** Every group that there is, with how many sources (endpoints by address, scouts) follow it, and how many say their own. */
  groups: z.array(z.object({ group: z.string(), byGroup: z.number().int(), byThemselves: z.number().int() })),
});
export type IntervalsAnswer = z.infer<typeof IntervalsAnswer>;

export const DropRuleDocument = z.strictObject({
  metric: z.string().trim().min(1, 'which metric is missing').max(200),
  label: z.union([z.literal(''), LabelName]).default(''),
  is: z.string().max(200).default(''),
});

export const EndpointDocument = z
  .strictObject({
    address: PageAddress,
    group: GroupName,
    intervalSeconds: OwnInterval,
    /** Null: four fifths of the interval, 10 s at most. */
    timeoutSeconds: z.coerce
      .number<number>()
      .min(0.5, 'at least half a second')
      .max(60, 'at most 60 s')
      .nullable()
      .default(null),
    labels: AttachedLabels,
    /** What proves who asks; the secret itself is in no document. */
    proof: z.enum(['none', 'basic', 'bearer', 'certificate']).default('none'),
    user: z.string().trim().max(200).default(''),
    /** PEM; public by nature. */
    certificate: z.string().trim().max(50_000).default(''),
    authority: Authority,
    /** Through a cluster's own API, for pods and services that cannot be reached from here. */
    through: ClusterName.nullable().default(null),
    /** The machine outside all clusters whose page this is; it becomes an object of that name. */
    host: z.string().trim().max(120).default(''),
    team: z.string().trim().max(60).nullable().default(null),
    drop: z.array(DropRuleDocument).max(50).default([]),
    use: z.enum(['read', 'paused', 'retired']).default('read'),
  })
  .superRefine((document, context) => {
    const wrong = (path: string, message: string) => context.addIssue({ code: 'custom', path: [path], message });
    if (document.timeoutSeconds !== null && document.timeoutSeconds > (document.intervalSeconds ?? 3600))
      wrong('timeoutSeconds', 'waiting longer than until the next reading helps nobody; at most the interval');
    if (document.proof === 'basic' && document.user === '') wrong('user', 'the name is missing');
    if (document.proof === 'certificate' && !/^-----BEGIN CERTIFICATE-----/.test(document.certificate))
      wrong('certificate', 'a certificate starts with -----BEGIN CERTIFICATE-----');
    if (document.through !== null && document.proof !== 'none')
      wrong('proof', 'through a cluster the cluster’s own token is sent; choose none');
  });
export type EndpointDocument = z.infer<typeof EndpointDocument>;

// ---- trying -----------------------------------------------------------------------------------------------------

export const Secret = z
  .string()
  .max(20_000)
  .transform((text) => text.trim())
  .default('');
export const EndpointInput = z.object({ document: EndpointDocument, secret: Secret });
export type EndpointInput = z.infer<typeof EndpointInput>;
export const TryInput = EndpointInput.extend({
  /** The kept secret of this endpoint is used when none is given, at its own address only. */
  like: SourceKey.optional(),
});
export type TryInput = z.infer<typeof TryInput>;

const UnderstoodLine = z.object({
  line: z.number().int(),
  text: z.string(),
  /** What was understood; null for a line without a sample that is in order. */
  as: z.string().nullable(),
  problem: z.string().nullable(),
});
export const TryAnswer = z.object({
  ok: z.boolean(),
  /** What happened, in words. */
  verdict: z.string(),
  nextStep: z.string().nullable(),
  durationMs: z.number(),
  address: z.string(),
  status: z.number().int().nullable(),
  contentType: z.string().nullable(),
  form: z.string().nullable(),
  bytes: z.number().int().nullable(),
  samples: z.number().int().nullable(),
  series: z.number().int().nullable(),
  dropped: z.number().int(),
  problems: z.number().int(),
  /** The page raw beside what was understood of each line; its first lines. */
  lines: z.array(UnderstoodLine),
  more: z.boolean(),
});
export type TryAnswer = z.infer<typeof TryAnswer>;

export const EndpointsInput = z.object({
  endpoints: z
    .array(EndpointInput.extend({ key: SourceKey }))
    .min(1)
    .max(500, 'at most 500 at a time'),
});
export type EndpointsInput = z.infer<typeof EndpointsInput>;
export const UseInput = z.object({ use: z.enum(['read', 'paused', 'retired']) });

/** What hangs on an endpoint: it is listed before the endpoint is retired or removed. */
export const DependantsAnswer = z.object({
  series: z.number().int(),
  metrics: z.number().int(),
  firstAt: EpochMs.nullable(),
  objects: z.array(z.string()),
  /** Why it cannot be removed for good now, with what to do; null when it can. */
  stays: z.string().nullable(),
});
export type DependantsAnswer = z.infer<typeof DependantsAnswer>;

export const GivenAnswer = z.object({
  key: z.string(),
  document: EndpointDocument,
  hasSecret: z.boolean(),
  endpoint: EndpointAnswer,
});
export type GivenAnswer = z.infer<typeof GivenAnswer>;

// ---- one endpoint -----------------------------------------------------------------------------------------------

export const HistoryAnswer = z.object({
  /** Five minutes each, oldest first. */
  stretches: z.array(
    z.object({
      at: EpochMs,
      readings: z.number().int(),
      failures: z.number().int(),
      durationMs: z.number().nullable(),
      longestMs: z.number().nullable(),
      bytes: z.number().nullable(),
      series: z.number().int().nullable(),
      reason: z.string().nullable(),
    }),
  ),
  gaps: z.array(z.object({ from: EpochMs, to: EpochMs.nullable(), reason: z.string(), planned: z.boolean() })),
});
export type HistoryAnswer = z.infer<typeof HistoryAnswer>;

export const MetricsQuery = z.object({ find: z.string().trim().max(200).default('') });
export const MetricsAnswer = z.object({
  metrics: z.array(
    z.object({
      name: z.string(),
      type: z.string(),
      unit: z.string(),
      /** What the page says that it is; empty: nothing. */
      help: z.string(),
      series: z.number().int(),
      state: z.enum(['read', 'gone']),
      lastAt: EpochMs.nullable(),
      /** Of the only series, or of the first one. */
      value: z.number().nullable(),
    }),
  ),
  more: z.number().int(),
  /** Labels that every series gets beside its page's own. */
  attached: z.record(z.string(), z.string()),
  exemplars: z.array(
    z.object({ metric: z.string(), at: EpochMs, value: z.number(), labels: z.record(z.string(), z.string()) }),
  ),
  /** When one was asked for by its whole name: the answer in words. */
  answer: z.string().nullable(),
});
export type MetricsAnswer = z.infer<typeof MetricsAnswer>;

/** The series of one metric of an endpoint. */
export const SeriesQuery = z.object({ metric: z.string().min(1, 'which metric is missing').max(200) });
export const SeriesAnswer = z.object({
  series: z.array(
    z.object({
      labels: z.record(z.string(), z.string()),
      state: z.enum(['read', 'gone']),
      lastAt: EpochMs.nullable(),
      value: z.number().nullable(),
      /** An earlier value that is still at hand, to tell whether it grows; null where there is none. */
      before: z.object({ at: EpochMs, value: z.number() }).nullable(),
    }),
  ),
  more: z.number().int(),
});
export type SeriesAnswer = z.infer<typeof SeriesAnswer>;
