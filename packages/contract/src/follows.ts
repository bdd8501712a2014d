import { z } from 'zod';
import { NamespaceName } from './objectNames.ts';
import { ClusterName } from './sources.ts';
import { EpochMs } from './time.ts';

/** Lines of a namespace's workloads that are read from the cluster, where its programs push none. */
export const FollowDocument = z.strictObject({
  cluster: ClusterName,
  namespace: NamespaceName,
  /** By name; none: all of the namespace. */
  workloads: z.array(z.string().trim().min(1).max(253)).max(100).default([]),
  note: z.string().trim().max(2000).default(''),
});
export type FollowDocument = z.infer<typeof FollowDocument>;

/** Why lines of a container are missing. */
export const LINE_GAPS = {
  gone: 'the cluster had thrown them away',
  restarted: 'the container restarted more than once meanwhile, and the cluster keeps only the last of it',
} as const;
export type LineGapReason = keyof typeof LINE_GAPS;
export const LineGap = z.object({
  pod: z.string(),
  container: z.string(),
  from: EpochMs,
  to: EpochMs,
  why: z.enum(Object.keys(LINE_GAPS) as [LineGapReason, ...LineGapReason[]]), // it has some
});
export type LineGap = z.infer<typeof LineGap>;

export const FollowState = z.object({
  /** Containers whose lines are read now, those that wait for something, and those that are too many for the cluster. */
  open: z.number().int(),
  waiting: z.array(z.object({ pod: z.string(), container: z.string(), why: z.string(), since: EpochMs })),
  /** How many wait in all. */
  waitingInAll: z.number().int(),
  tooMany: z.number().int(),
  /** Entries since the start, and what was masked in them. */
  lines: z.number().int(),
  masked: z.number().int(),
  /** When the newest one came; null: none did. */
  newestAt: EpochMs.nullable(),
});
export type FollowState = z.infer<typeof FollowState>;
export const FollowsAnswer = z.object({
  follows: z.array(
    z.object({
      key: z.string(),
      document: z.custom<FollowDocument>((value) => FollowDocument.safeParse(value).success, 'nothing is followed so'),
      /** The team whose namespace it is; null: nobody's. */
      owner: z.string().nullable(),
      mayChange: z.boolean(),
      state: FollowState,
      /** The newest ones. */
      gaps: z.array(LineGap),
    }),
  ),
  /** Namespaces that somebody may follow, with their workloads. */
  namespaces: z.array(z.object({ cluster: z.string(), namespace: z.string(), workloads: z.array(z.string()) })),
  /** Containers that are followed in one cluster at most. */
  mostContainers: z.number().int(),
});
export type FollowsAnswer = z.infer<typeof FollowsAnswer>;
