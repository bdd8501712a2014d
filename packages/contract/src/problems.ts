import { z } from 'zod';

/** Every refused request is answered with this. The text ends with what to do. */
export const Problem = z.object({
  code: z.string(),
  text: z.string(),
  /** Which field of the request, where one is to blame. */
  fields: z.array(z.object({ path: z.string(), text: z.string() })).default([]),
  /** A moment at which there was something to look at, in ms, where there is nothing now. */
  seenAt: z.number().optional(),
});
export type Problem = z.infer<typeof Problem>;
