import { z } from 'zod';

const VitalName = z.string().regex(/^[a-z]+(\.[a-z_]+)+$/, 'no such vital');
const LabelName = z
  .string()
  .trim()
  .regex(/^[a-zA-Z_][a-zA-Z0-9_]{0,99}$/, 'a label’s name is letters, digits and underscores');
const RoleName = z.enum([
  'namespace',
  'pod',
  'podUid',
  'container',
  'node',
  'claim',
  'direction',
  'mode',
  'processor',
  'state',
  'mount',
]);
export const VitalMappingDocument = z.strictObject({
  metric: z
    .string()
    .trim()
    .regex(/^[a-zA-Z_:][a-zA-Z0-9_:]{0,199}$/, 'a metric’s name is letters, digits, underscores and colons'),
  labels: z.partialRecord(RoleName, LabelName).default({}),
  where: z.record(LabelName, z.string().max(500)).default({}),
  /** What a sample is multiplied by to be in seconds or bytes. */
  factor: z.coerce.number<number>().positive('more than 0').max(1e15).default(1),
});
/** The key of the document that maps machines outside all clusters; no cluster can be called so. */
export const MACHINES = 'outside clusters';
/** How a cluster's own metrics are read as vitals; those not named are read under our own names. */
export const VitalsDocument = z.strictObject({ vitals: z.record(VitalName, VitalMappingDocument).default({}) });
export type VitalsDocument = z.infer<typeof VitalsDocument>;

const VitalState = z.object({
  vital: z.string(),
  mapping: VitalMappingDocument,
  /** Its own, or the cluster's. */
  mapped: z.boolean(),
  series: z.number().int(),
  /** Objects of the inventory that have it, and how many there are. */
  objects: z.number().int(),
  ofObjects: z.number().int(),
  /** The newest value of one of them, in seconds or bytes. */
  example: z.object({ of: z.string(), value: z.number() }).nullable(),
  problem: z.string().nullable(),
});
export const VitalsAnswer = z.object({
  cluster: z.string(),
  vitals: z.array(VitalState),
  proposals: z.array(z.object({ vital: z.string(), mapping: VitalMappingDocument, because: z.string() })),
  metrics: z.array(z.string()),
});
export type VitalsAnswer = z.infer<typeof VitalsAnswer>;
