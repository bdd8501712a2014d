import { z } from 'zod';
import { Line, Mark } from './sheet.ts';
import { STRETCH_KINDS } from './stretches.ts';
import { EpochMs, WindowAnswer } from './time.ts';

export const TapeAnswer = z.object({
  span: WindowAnswer,
  grid: z.object({ start: EpochMs, step: z.number(), count: z.number().int() }),
  /** CPU use of the scope. */
  load: Line,
  loadOf: z.string(),
  marks: z.array(Mark),
  /** Stretches of time that people marked where this is, oldest first. */
  stretches: z.array(
    z.object({
      key: z.string(),
      kind: z.enum(STRETCH_KINDS),
      title: z.string(),
      path: z.array(z.string()),
      from: EpochMs,
      /** Null: it goes on. */
      to: EpochMs.nullable(),
      mayChange: z.boolean(),
    }),
  ),
  /** When nobody is, was or will be told. */
  hushes: z.array(z.object({ reason: z.string(), from: EpochMs, to: EpochMs })),
  gaps: z.array(z.object({ from: EpochMs, to: EpochMs, reason: z.string() })),
  newestAt: EpochMs.nullable(),
});
export type TapeAnswer = z.infer<typeof TapeAnswer>;
