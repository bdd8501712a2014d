import { z } from 'zod';
import { WrittenMeasure } from './measures.ts';
import { DocumentKey } from './objectNames.ts';
import { EpochMs } from './time.ts';

/** A measure that is kept: others read it by its title. */
export const MeasureDocument = z.strictObject({
  title: z
    .string()
    .trim()
    .min(1, 'a measure has a title')
    .max(100)
    .regex(/^[^\n\r"\\]*$/, 'one line without quotes or backslashes'),
  note: z.string().trim().max(2000).default(''),
  /** Whose it is; null: everybody's, and administrators change it. */
  team: DocumentKey.nullable().default(null),
  text: WrittenMeasure,
});
export type MeasureDocument = z.infer<typeof MeasureDocument>;

const SavedMeasure = z.object({
  key: z.string(),
  title: z.string(),
  note: z.string(),
  team: z.string().nullable(),
  /** The team by its name. */
  owner: z.string().nullable(),
  text: z.string(),
  /** Its unit, as far as what it reads is known; null: it cannot be worked out at present, and why. */
  unit: z.string().nullable(),
  problem: z.string().nullable(),
  /** Titles of measures that read it. */
  readBy: z.array(z.string()),
  mayChange: z.boolean(),
});
export const SavedMeasuresAnswer = z.object({
  measures: z.array(SavedMeasure),
  /** Teams that whoever asks may keep one for; `everybody`: also without a team. */
  teams: z.array(z.object({ key: z.string(), name: z.string() })),
  everybody: z.boolean(),
});
export type SavedMeasuresAnswer = z.infer<typeof SavedMeasuresAnswer>;
export const MeasureVersionsAnswer = z.object({
  /** Newest first. */
  versions: z.array(
    z.object({
      revision: z.number().int(),
      at: EpochMs,
      by: z.string(),
      was: z.enum(['added', 'changed', 'removed']),
      /** Null: it was removed then. */
      document: z.unknown().nullable(),
      lines: z.array(z.object({ is: z.enum(['same', 'added', 'removed']), text: z.string() })),
    }),
  ),
});
export type MeasureVersionsAnswer = z.infer<typeof MeasureVersionsAnswer>;
