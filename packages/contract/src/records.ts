import { LINE_LEVELS } from '@zetopsis/core/lines';
import { z } from 'zod';

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

/** The newest lines of an object. */
export const LinesAnswer = z.object({
  lines: z.array(LineAnswer),
  /** There are others in the window. */
  more: z.boolean(),
  /** How many there are of it in the last 24 hours, and how many of them bear a trace id. */
  day: z.object({ lines: z.number().int(), traced: z.number().int() }),
  /** Whether anything was ever sent for it. */
  known: z.boolean(),
});
export type LinesAnswer = z.infer<typeof LinesAnswer>;
