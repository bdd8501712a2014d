import { z } from 'zod';

/** A view that somebody kept: a place with its address, for oneself or for a team. */
export const SavedViewInput = z.object({
  name: z.string().trim().min(1, 'a view has a name').max(80),
  /** What stands behind the host: path and query. */
  address: z
    .string()
    .max(4000)
    .regex(/^\/(usage|now)(\?[^#]*)?$/, 'a view is one of Usage or Now'),
  /** The key of a team that sees it, too; null: only oneself. */
  team: z.string().trim().max(60).nullable().default(null),
});
export type SavedViewInput = z.infer<typeof SavedViewInput>;
export const SavedView = z.object({
  id: z.number().int(),
  name: z.string(),
  address: z.string(),
  team: z.string().nullable(),
  by: z.string(),
  /** One may remove one's own. */
  own: z.boolean(),
});
export type SavedView = z.infer<typeof SavedView>;
export const SavedViewsAnswer = z.object({
  views: z.array(SavedView),
  /** Teams that one may keep a view for. */
  teams: z.array(z.object({ key: z.string(), name: z.string() })),
});
export type SavedViewsAnswer = z.infer<typeof SavedViewsAnswer>;
