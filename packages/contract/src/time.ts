import { WEEKDAYS } from '@zetopsis/core/rules';
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

/** A moment as people write it: ISO 8601 with an offset. */
export const Moment = z
  .string()
  .max(40)
  .refine(
    (text) => /^\d{4}-\d\d-\d\dT/.test(text) && /(Z|[+-]\d\d:\d\d)$/.test(text) && !Number.isNaN(Date.parse(text)),
    {
      message: 'a moment is written such as 2026-11-30T22:00:00Z',
    },
  );
const Clock = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time of day is written such as 22:00');
const Zone = z
  .string()
  .max(60)
  .refine(
    (zone) => {
      try {
        return new Intl.DateTimeFormat('en', { timeZone: zone }).resolvedOptions().timeZone !== '';
      } catch {
        return false;
      }
    },
    { message: 'this is no time zone: Europe/Oslo, UTC' },
  );
/** Hours of the week. */
export const Weekly = z.strictObject({
  zone: Zone.default('UTC'),
  days: z.array(z.enum(WEEKDAYS)).min(1, 'at least one day').max(7),
  from: Clock,
  to: Clock,
});
