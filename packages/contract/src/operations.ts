import { z } from 'zod';
import { WindowAnswer } from './time.ts';

/** What is asked of operations beside where and when. */
export const OperationsQuery = z.object({
  /** What a request is to stay below, s. */
  target: z.coerce.number().min(0.001).max(600).default(0.3),
});
export type OperationsQuery = z.infer<typeof OperationsQuery>;

const Told = z.number().nullable();
export const RequestFigures = z.object({
  /** In the window. */
  requests: z.number(),
  failedShare: Told,
  /** s. */
  half: Told,
  nearlyAll: Told,
  /** Within the target, and half of those within four times it. */
  satisfaction: Told,
});
export type RequestFigures = z.infer<typeof RequestFigures>;
export const OperationFigures = RequestFigures.extend({
  operation: z.string(),
  /** The first that a program answered, and those that browsers sent. */
  cold: z.number(),
  browsers: z.number(),
});
export type OperationFigures = z.infer<typeof OperationFigures>;
/** What programs answer, by operation, as their spans tell. */
export const OperationsAnswer = z.object({
  window: WindowAnswer,
  target: z.number(),
  all: RequestFigures,
  operations: z.array(OperationFigures),
  pods: z.array(RequestFigures.extend({ pod: z.string() })),
  versions: z.array(RequestFigures.extend({ version: z.string(), pods: z.number().int() })),
  uneven: z.object({ pod: z.string(), times: z.number() }).nullable(),
  /** The window compared with; null: nothing is compared. */
  was: z.array(OperationFigures).nullable(),
});
export type OperationsAnswer = z.infer<typeof OperationsAnswer>;
