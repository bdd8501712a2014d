import { z } from 'zod';
import { FIXTURE_LINES } from './wire-names.ts';

const MOST_OBJECTS = 50_000;
const Amount = z.number().nonnegative();
/** A cluster at a moment, as its API holds it: what a person may send who asks why something was said of it, or was not. */
export const Fixture = z.object({
  now: z.iso.datetime({ offset: true }),
  objects: z.array(z.record(z.string(), z.unknown())).max(MOST_OBJECTS),
  usage: z
    .array(
      z.object({
        at: z.iso.datetime({ offset: true }),
        kind: z.literal('volume'),
        namespace: z.string(),
        claim: z.string(),
        usedBytes: Amount,
        capacityBytes: Amount,
        usedInodes: Amount.optional(),
        inodes: Amount.optional(),
      }),
    )
    .default([]),
  [FIXTURE_LINES]: z
    .array(
      z.object({
        pod: z.string(),
        container: z.string(),
        previous: z.boolean().default(false),
        lines: z.array(z.string()).max(1000),
      }),
    )
    .default([]),
});
export type Fixture = z.infer<typeof Fixture>;
