import { z } from 'zod';
import { EpochMs } from './time.ts';

/** What can be brought in from elsewhere: samples of one endpoint, or states that objects of a cluster had. */
export const ImportWhat = z.enum(['samples', 'states of objects']);
export type ImportWhat = z.infer<typeof ImportWhat>;

/** Asked with the file as body: timed OpenMetrics text, or one state of an object a line as JSON. */
export const ImportQuery = z.object({
  cluster: z.string().min(1).max(100),
  /** The endpoint's node; for samples only. */
  node: z.string().min(1).max(253).optional(),
  what: ImportWhat,
});
export type ImportQuery = z.infer<typeof ImportQuery>;

/** One line of a file with states of objects: an object as the cluster's API gave it, and from when to when it was so. */
export const StateLine = z.object({
  kind: z.string(),
  from: z.iso.datetime({ offset: true }),
  to: z.iso.datetime({ offset: true }),
  object: z.record(z.string(), z.unknown()),
});
export type StateLine = z.infer<typeof StateLine>;

export const ImportAnswer = z.object({
  id: z.number().int(),
  cluster: z.string(),
  /** Node of the endpoint, or what it is about otherwise. */
  about: z.string(),
  what: ImportWhat,
  by: z.string(),
  state: z.enum(['waiting', 'running', 'done', 'cancelled', 'failed', 'interrupted']),
  parts: z.number().int(),
  partsDone: z.number().int(),
  /** Samples or states that are kept now and were not before. */
  added: z.number().int(),
  /** Known already with the same value; known with another one, which stays. */
  same: z.number().int(),
  other: z.number().int(),
  /** Not taken: without a time, of a time that is read already, of series past a limit, lines that are wrong. */
  leftOut: z.number().int(),
  problem: z.string().nullable(),
  startedAt: EpochMs,
  endedAt: EpochMs.nullable(),
});
export type ImportAnswer = z.infer<typeof ImportAnswer>;
export const ImportsAnswer = z.object({ imports: z.array(ImportAnswer) });
export type ImportsAnswer = z.infer<typeof ImportsAnswer>;
