import { LINE_LEVELS } from '@zetopsis/core/lines';
import { SPAN_KINDS } from '@zetopsis/core/spans';
import { z } from 'zod';
import { LineGap } from './follows.ts';

const LineAnswer = z.object({
  /** With fractions. */
  at: z.number(),
  level: z.enum(LINE_LEVELS).nullable(),
  text: z.string(),
  fields: z.array(z.tuple([z.string(), z.string()])),
  /** Empty where there is none. */
  traceId: z.string(),
  pod: z.string().nullable(),
  container: z.string().nullable(),
  /** Null for one of the others. */
  wording: z.object({ number: z.number().int(), text: z.string() }).nullable(),
});
export type LineAnswer = z.infer<typeof LineAnswer>;

const TraceLine = z.object({
  traceId: z.string(),
  /** Of the object's own step, with fractions: when it began, how long it took in ms, what it is called. */
  at: z.number(),
  took: z.number(),
  operation: z.string(),
  failed: z.boolean(),
  pod: z.string().nullable(),
  container: z.string().nullable(),
  /** Of the whole trace, as far as it came. */
  whole: z.object({ took: z.number(), spans: z.number().int(), failed: z.boolean(), orphans: z.number().int() }),
  /** For how many it stands. */
  weight: z.number().int(),
});
export type TraceLine = z.infer<typeof TraceLine>;
/** The slowest and the newest failed traces in which an object had a part. */
export const TracesAnswer = z.object({
  slowest: z.array(TraceLine),
  failed: z.array(TraceLine),
  /** In the window, scaled up where not all are kept; and how many failed. */
  traces: z.number().int(),
  failures: z.number().int(),
  /** Not all are kept. */
  sampled: z.boolean(),
  /** All of the window was looked through. */
  whole: z.boolean(),
});
export type TracesAnswer = z.infer<typeof TracesAnswer>;
const TraceStep = z.object({
  spanId: z.string(),
  parentId: z.string(),
  name: z.string(),
  kind: z.enum(SPAN_KINDS),
  at: z.number(),
  took: z.number(),
  failed: z.boolean(),
  message: z.string(),
  fields: z.array(z.tuple([z.string(), z.string()])),
  service: z.string().nullable(),
  pod: z.string().nullable(),
  node: z.string().nullable(),
});
export type TraceStep = z.infer<typeof TraceStep>;
/** One trace, step by step, as far as somebody may see it. */
export const TraceAnswer = z.object({
  traceId: z.string(),
  /** By when they began. */
  steps: z.array(TraceStep),
  /** Steps elsewhere, that somebody may not see. */
  hidden: z.number().int(),
  /** Steps beyond those that are told. */
  left: z.number().int(),
  /** Steps whose parent never came. */
  orphans: z.number().int(),
  /** More of it may come. */
  open: z.boolean(),
});
export type TraceAnswer = z.infer<typeof TraceAnswer>;

/** The newest lines of an object. */
export const LinesAnswer = z.object({
  lines: z.array(LineAnswer),
  /** There are others in the window. */
  more: z.boolean(),
  /** How many there are of it in the last 24 hours, and how many of them bear a trace id. */
  day: z.object({ lines: z.number().int(), traced: z.number().int() }),
  /** Whether anything was ever sent for it. */
  known: z.boolean(),
  /** What was dropped today by the limit of the team whose it is; null: nothing. */
  dropped: z.object({ lines: z.number().int(), team: z.string(), most: z.number().int() }).nullable(),
  /** What is missing in the window of lines that are read from the cluster; the newest ones. */
  gaps: z.array(LineGap),
});
export type LinesAnswer = z.infer<typeof LinesAnswer>;
