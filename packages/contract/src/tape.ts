import { z } from 'zod';
import { Line, Mark } from './sheet.ts';
import { EpochMs, WindowAnswer } from './time.ts';

export const TapeAnswer = z.object({
  span: WindowAnswer,
  grid: z.object({ start: EpochMs, step: z.number(), count: z.number().int() }),
  /** CPU use of the scope. */
  load: Line,
  loadOf: z.string(),
  marks: z.array(Mark),
  gaps: z.array(z.object({ from: EpochMs, to: EpochMs, reason: z.string() })),
  newestAt: EpochMs.nullable(),
});
export type TapeAnswer = z.infer<typeof TapeAnswer>;
