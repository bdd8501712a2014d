import { z } from 'zod';
import { EpochMs } from './time.ts';

export const FindQuery = z.object({ q: z.string().trim().max(200).default('') });
export const FindAnswer = z.object({
  found: z.array(
    z.object({
      kind: z.string(),
      name: z.string(),
      /** Where its sheet is; empty for a rule or an endpoint. */
      path: z.array(z.string()),
      /** Of a rule: its page. */
      key: z.string().optional(),
      /** Of a stretch of time: which; null: it goes on. */
      span: z.object({ from: EpochMs, to: EpochMs.nullable() }).optional(),
      /** Where it stands, in words. */
      where: z.string(),
      /** When it went; null while it is there. */
      goneAt: EpochMs.nullable(),
    }),
  ),
  /** How many names were looked at. */
  lookedAt: z.number().int(),
});
export type FindAnswer = z.infer<typeof FindAnswer>;
