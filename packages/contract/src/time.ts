import { z } from 'zod';

/** Milliseconds since 1970; far enough from both ends that arithmetic stays exact. */
export const EpochMs = z.number().int().min(0).max(8_640_000_000_000_000);
const QueryTime = z.coerce.number().int().min(0).max(8_640_000_000_000);

const MAX_WINDOW = 92 * 86_400_000;

/** The window being looked at. `to` missing means: up to now. */
export const WindowQuery = z
  .object({ from: QueryTime, to: QueryTime.optional() })
  .refine(({ from, to }) => to === undefined || to > from, {
    message: 'the window ends before it begins',
    path: ['to'],
  })
  .refine(({ from, to }) => (to ?? Date.now()) - from <= MAX_WINDOW, {
    message: 'the window is longer than 92 days',
    path: ['from'],
  });
export type WindowQuery = z.infer<typeof WindowQuery>;
export const WindowAnswer = z.object({ from: EpochMs, to: EpochMs, live: z.boolean() });

/** How much earlier the window lies that is compared with, in ms; negative: later. Missing: nothing is compared. */
export const AgainstQuery = z.object({
  shift: z.coerce
    .number()
    .int()
    .min(-MAX_WINDOW)
    .max(4 * MAX_WINDOW)
    .refine((shift) => shift !== 0, 'a window is not compared with itself')
    .optional(),
});
export type AgainstQuery = z.infer<typeof AgainstQuery>;
