import { z } from 'zod';

/** A key of a document: of a team, a measure, a rule. */
export const DocumentKey = z
  .string()
  .trim()
  .regex(/^[a-zA-Z0-9]([a-zA-Z0-9-]{0,58}[a-zA-Z0-9])?$/, 'a key is letters, digits and dashes');
/** Names as a cluster's API takes them, in what people write. */
export const NamespaceName = z
  .string()
  .trim()
  .regex(/^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$/, 'a namespace is small letters, digits and dashes');
export const LabelKey = z
  .string()
  .trim()
  .min(1, 'the key is missing')
  .max(317)
  .regex(/^[A-Za-z0-9._/-]+$/, 'a key is letters, digits, dots, dashes, underscores, with at most one prefix before /');
export const WorkloadKey = z
  .string()
  .trim()
  .regex(/^[a-z-]+:[a-z0-9]([a-z0-9.-]*[a-z0-9])?$/, 'a workload is written kind:name, such as deployment:web');
