import { z } from 'zod';
import { DropRuleDocument } from './endpoints.ts';
import { ClusterName } from './sources.ts';
import { EpochMs } from './time.ts';

// ---- coverage and census ----------------------------------------------------------------------------------------

export const CoverageQuery = z.object({
  cluster: ClusterName.optional(),
  /** Only what is not read as it should. */
  only: z.enum(['all', 'unread']).default('unread'),
});
const Cover = z.enum(['read', 'late', 'unread', 'never', 'paused']);
export const CoverageAnswer = z.object({
  at: EpochMs,
  share: z.object({ containers: z.number().int(), read: z.number().int() }),
  byNamespace: z.array(
    z.object({
      cluster: z.string(),
      namespace: z.string(),
      team: z.string().nullable(),
      containers: z.number().int(),
      read: z.number().int(),
    }),
  ),
  rows: z.array(
    z.object({
      kind: z.enum(['node', 'workload', 'container', 'endpoint', 'cluster']),
      path: z.array(z.string()),
      name: z.string(),
      state: Cover,
      since: EpochMs.nullable(),
      reason: z.string(),
      nextStep: z.string(),
      /** Where the step is taken: an endpoint to look at, a cluster to change, a scout to make. */
      step: z.object({ does: z.enum(['endpoint', 'connection', 'vitals']), to: z.string() }).nullable(),
    }),
  ),
  inAll: z.number().int(),
  changes: z.array(z.object({ endpointId: z.number().int().nullable(), what: z.string(), text: z.string() })),
});
export type CoverageAnswer = z.infer<typeof CoverageAnswer>;

/** A pod, whose ports are asked. */
export const PodPortsInput = z.strictObject({
  cluster: ClusterName,
  namespace: z
    .string()
    .trim()
    .regex(/^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$/, 'a namespace is small letters, digits and dashes'),
  pod: z
    .string()
    .trim()
    .regex(/^[a-z0-9]([a-z0-9.-]{0,251}[a-z0-9])?$/, 'a pod is named by small letters, digits, dots and dashes'),
  path: z.string().trim().startsWith('/', 'a path starts with /').max(300).default('/metrics'),
});
export type PodPortsInput = z.infer<typeof PodPortsInput>;
export const PodPortsAnswer = z.object({
  node: z.string().nullable(),
  nodeAddress: z.string().nullable(),
  address: z.string().nullable(),
  phase: z.string(),
  ports: z.array(
    z.object({
      container: z.string(),
      port: z.number().int(),
      name: z.string(),
      /** What answers there, in words: from here, and through the cluster's API. */
      direct: z.string(),
      through: z.string(),
      readAs: z.string().nullable(),
    }),
  ),
});
export type PodPortsAnswer = z.infer<typeof PodPortsAnswer>;

const Share = z.object({ name: z.string(), series: z.number().int() });
export const CensusQuery = z.object({ find: z.string().trim().max(200).default('') });
export const CensusAnswer = z.object({
  series: z.number().int(),
  limit: z.number().int(),
  grown: z.number().int().nullable(),
  metrics: z.array(
    Share.extend({
      /** The label with the most values. */
      label: z.string().nullable(),
      values: z.number().int(),
      endpoints: z.number().int(),
    }),
  ),
  labels: z.array(Share.extend({ values: z.number().int() })),
  endpoints: z.array(Share.extend({ id: z.number().int(), grown: z.number().int().nullable() })),
  teams: z.array(Share),
});
export type CensusAnswer = z.infer<typeof CensusAnswer>;

export const DropPreviewInput = z.object({ endpoint: z.number().int().nullable(), rule: DropRuleDocument });
export const DropPreview = z.object({
  series: z.number().int(),
  metrics: z.array(Share),
  examples: z.array(z.string()),
});
export type DropPreview = z.infer<typeof DropPreview>;
