import { ownPattern } from '@zetopsis/core/lines';
import { z } from 'zod';
import { DocumentKey } from './objectNames.ts';

/** What is taken out of log lines beside what always is: a pattern in the syntax that runs in linear time. */
export const MaskDocument = z
  .strictObject({
    title: z.string().trim().min(1, 'it has a title').max(120),
    /** Of whose lines; null: of all. */
    team: DocumentKey.nullable().default(null),
    pattern: z.string().min(1, 'it has a pattern').max(500),
    note: z.string().trim().max(2000).default(''),
  })
  .superRefine(({ pattern }, context) => {
    try {
      ownPattern(pattern);
    } catch (error) {
      context.addIssue({
        code: 'custom',
        path: ['pattern'],
        message: error instanceof Error ? error.message : 'wrong',
      });
    }
  });
export type MaskDocument = z.infer<typeof MaskDocument>;

const KeptMask = z.custom<MaskDocument>((value) => MaskDocument.safeParse(value).success, 'this is no mask');
export const MasksAnswer = z.object({
  masks: z.array(
    z.object({ key: z.string(), document: KeptMask, owner: z.string().nullable(), mayChange: z.boolean() }),
  ),
  /** Those that somebody may make one for, and whether for all. */
  teams: z.array(z.object({ key: z.string(), name: z.string() })),
  everybody: z.boolean(),
});
export type MasksAnswer = z.infer<typeof MasksAnswer>;
/** What a pattern would have taken out of what came lately. */
export const MaskPreview = z.object({
  /** Lines that were looked at, and those that would have changed. */
  looked: z.number().int(),
  masked: z.number().int(),
  examples: z.array(z.object({ before: z.string(), after: z.string() })),
});
export type MaskPreview = z.infer<typeof MaskPreview>;
