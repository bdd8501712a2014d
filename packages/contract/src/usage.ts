import { FINDING_CODES, SEVERITIES } from '@zetopsis/core/findings';
import { z } from 'zod';
import { EpochMs, WindowAnswer } from './time.ts';

export const Severity = z.enum(SEVERITIES);
export const Finding = z.object({
  code: z.enum(FINDING_CODES),
  severity: Severity,
  reason: z.string(),
  evidence: z.string(),
  since: EpochMs.nullable(),
  nextStep: z.string(),
});
export type Finding = z.infer<typeof Finding>;

/** What columns can show beside CPU and memory; worked out for what is looked at. */
export const OtherResource = z.enum([
  'received',
  'sent',
  'files',
  'volumes',
  'pods',
  'throttled',
  'restarts',
  'memoryEnds',
]);
export type OtherResource = z.infer<typeof OtherResource>;
export const OtherQuery = z.object({ of: OtherResource.optional() });

export const ResourceName = z.enum(['cpu', 'memory']);
export const Figures = z.object({
  use: z.number().nullable(),
  mean: z.number().nullable(),
  peak: z.number().nullable(),
  request: z.number().nullable(),
  limit: z.number().nullable(),
  limitIs: z.enum(['limit', 'quota', 'allocatable', 'size', 'time', 'none']),
  unlimited: z.string().nullable(),
  tightness: z.number().nullable(),
  heading: z.number().nullable(),
});
export type Figures = z.infer<typeof Figures>;

/** The same object in the window compared with; of a pod: the average pod of its workload. */
const Compared = z.object({
  use: z.number().nullable(),
  mean: z.number().nullable(),
  peak: z.number().nullable(),
});
export type Compared = z.infer<typeof Compared>;
export const ComparedBoth = z.object({ cpu: Compared, memory: Compared });

export const UsageLevel = z.enum(['cluster', 'namespace', 'workload', 'pod', 'container', 'node', 'host', 'team']);
export type UsageLevel = z.infer<typeof UsageLevel>;
const ComparedRow = ComparedBoth.extend({ other: Compared.nullable().optional() });
/** Which level stands below the clusters. */
export const ByQuery = z.object({ by: z.enum(['namespace', 'node', 'team']).default('namespace') });
export type By = z.infer<typeof ByQuery>['by'];
export const UsageRow = z.object({
  key: z.string(),
  name: z.string(),
  /** Workload kind or container role, where there is one; "unused" and "free" stand for what nobody uses. */
  kind: z.string().nullable(),
  severity: Severity.nullable(),
  /** Short words on what is wrong, for the row's accessible name. */
  finding: z.string().nullable(),
  present: z.boolean(),
  /** When it was last there; null while it is, and where nothing tells. */
  goneAt: EpochMs.nullable(),
  pods: z.number().int(),
  ready: z.number().int().nullable(),
  desired: z.number().int().nullable(),
  usage: z.object({ cpu: Figures, memory: Figures }),
  /** Of the other resource that was asked for; null when none was, or where there is none of it. */
  other: Figures.nullable(),
  throttled: z.number().nullable(),
  /** In the window: of its containers, and those of them that ran out of memory. */
  restarts: z.number().int(),
  memoryEnds: z.number().int(),
  /** How old it is at the window's end, in ms; null of what has no beginning of its own. */
  age: z.number().nullable(),
  /** The team that owns it. */
  owner: z.string().nullable(),
  labels: z.record(z.string(), z.string()),
  /** Null when nothing is compared, or the other window does not have it. */
  against: ComparedRow.nullable(),
  /** Whether both windows have it; null when nothing is compared. */
  pairing: z.enum(['both', 'new', 'gone']).nullable(),
});
export type UsageRow = z.infer<typeof UsageRow>;

export const UsageColumn = z.object({
  level: UsageLevel,
  rows: z.array(UsageRow),
  /** Rows beyond the answer's limit. */
  left: z.number().int(),
  summary: z.string(),
});
export type UsageColumn = z.infer<typeof UsageColumn>;
export const UsageAnswer = z.object({
  window: WindowAnswer,
  /** The path that was asked for: column i holds the children of its first i parts. */
  path: z.array(z.string()),
  /** The window that is compared with; null when none is. */
  against: WindowAnswer.nullable(),
  /** The resource beside CPU and memory that rows tell of. */
  of: OtherResource.nullable(),
  columns: z.array(UsageColumn),
  /** Why a part of it may be missing or old, in words. */
  blind: z.array(z.string()),
});
export type UsageAnswer = z.infer<typeof UsageAnswer>;

/** All rows of one level below a path, wherever they stand. */
export const TableLevel = z.enum(['cluster', 'namespace', 'workload', 'pod', 'container', 'node']);
export type TableLevel = z.infer<typeof TableLevel>;
export const TableQuery = z.object({
  level: TableLevel.default('namespace'),
  /** A part of the name or of the place. */
  find: z.string().trim().max(200).default(''),
});
export const TableRow = UsageRow.extend({
  path: z.array(z.string()),
  /** Bytes per second, and bytes in file systems, at the window's end; null where nothing was read. */
  received: z.number().nullable(),
  sent: z.number().nullable(),
  files: z.number().nullable(),
  /** Bytes used on volumes, and their size. */
  volumes: z.number().nullable(),
  volumeSize: z.number().nullable(),
});
export type TableRow = z.infer<typeof TableRow>;
export const TableAnswer = z.object({
  window: WindowAnswer,
  level: TableLevel,
  rows: z.array(TableRow),
  /** Rows beyond the answer's limit. */
  left: z.number().int(),
});
export type TableAnswer = z.infer<typeof TableAnswer>;
