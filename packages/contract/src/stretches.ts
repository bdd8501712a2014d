import { z } from 'zod';
import { DocumentKey } from './objectNames.ts';
import { readPath } from './objectPath.ts';
import { EpochMs, Moment } from './time.ts';

export const STRETCH_KINDS = ['load', 'release', 'experiment', 'trouble', 'maintenance'] as const;
export type StretchKind = (typeof STRETCH_KINDS)[number];

/** A stretch of time that somebody marked: a load, a release, a trouble. */
export const StretchDocument = z
  .strictObject({
    kind: z.enum(STRETCH_KINDS),
    title: z.string().trim().min(1, 'a stretch has a title').max(120),
    /** Where, as an address has it: cluster, namespace, workload; empty: everywhere. */
    scope: z
      .array(z.string().max(300))
      .max(8)
      .refine((parts) => readPath(parts) !== null, 'no object can stand there')
      .default([]),
    /** Whose it is; null: everybody's who sees where it is. */
    team: DocumentKey.nullable().default(null),
    from: Moment,
    /** Null: it goes on. */
    to: Moment.nullable().default(null),
    note: z.string().trim().max(2000).default(''),
  })
  .superRefine(({ from, to }, context) => {
    if (to !== null && Date.parse(to) <= Date.parse(from))
      context.addIssue({ code: 'custom', path: ['to'], message: 'it ends before it begins' });
  });
export type StretchDocument = z.infer<typeof StretchDocument>;

/** As it is kept: with everything that may be left out when it is written. */
const KeptStretch = z.custom<StretchDocument>(
  (value) => StretchDocument.safeParse(value).success,
  'this is no stretch',
);
export const StretchAnswer = z.object({
  key: z.string(),
  document: KeptStretch,
  owner: z.string().nullable(),
  mayChange: z.boolean(),
});
export type StretchAnswer = z.infer<typeof StretchAnswer>;
export const StretchesAnswer = z.object({
  stretches: z.array(StretchAnswer),
  at: EpochMs,
  /** Those that somebody may mark one for. */
  teams: z.array(z.object({ key: z.string(), name: z.string() })),
});
export type StretchesAnswer = z.infer<typeof StretchesAnswer>;
/** Those that touch a time; newest first. */
export const StretchesQuery = z.object({
  from: z.coerce.number().int().min(0).max(8_640_000_000_000).optional(),
  to: z.coerce.number().int().min(0).max(8_640_000_000_000).optional(),
});
export type StretchesQuery = z.infer<typeof StretchesQuery>;
/** The end of one that goes on; missing: now. */
export const StretchEnd = z.object({ at: Moment.optional() });
export type StretchEnd = z.infer<typeof StretchEnd>;
