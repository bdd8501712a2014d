import { z } from 'zod';
import { Level, PersonName, RowNumber } from './access.ts';
import { ChannelDocument } from './channels.ts';
import { CriticalityDocument } from './criticality.ts';
import { EndpointDocument, IntervalsDocument } from './endpoints.ts';
import { FollowDocument } from './follows.ts';
import { ForwardDocument } from './forwards.ts';
import { HushDocument } from './hushes.ts';
import { MaskDocument } from './masks.ts';
import { DocumentKey, LabelKey, NamespaceName, WorkloadKey } from './objectNames.ts';
import { PushDocument } from './push.ts';
import { RuleDocument } from './rules.ts';
import { MeasureDocument } from './savedMeasures.ts';
import { ScoutDocument } from './scouts.ts';
import { ClusterName, ConnectionInput } from './sources.ts';
import { StretchDocument } from './stretches.ts';
import { EpochMs } from './time.ts';
import { VitalsDocument } from './vitals.ts';

/** Every document that configures Zetopsis, as it is kept, compared, written out and read back. Secrets are in none. */

export const ClusterDocument = ConnectionInput.omit({ name: true, token: true }).strict();
export type ClusterDocument = z.infer<typeof ClusterDocument>;

const ownership = <C extends z.ZodType>(cluster: C) =>
  z.discriminatedUnion('by', [
    z.strictObject({ by: z.literal('name'), cluster, namespace: NamespaceName }),
    z.strictObject({ by: z.literal('label'), cluster, key: LabelKey, is: z.string().trim().max(253) }),
    z.strictObject({ by: z.literal('annotation'), cluster, key: LabelKey, is: z.string().trim().max(2000) }),
    z.strictObject({
      by: z.literal('object'),
      cluster,
      namespace: NamespaceName,
      workload: WorkloadKey,
    }),
  ]);
/** One way a team says what is its own; the cluster may be left out: every one. */
export const OwnershipDocument = ownership(ClusterName.nullable().default(null));
export const OwnershipAnswer = ownership(z.string().nullable());
export type OwnershipAnswer = z.infer<typeof OwnershipAnswer>;
export const TeamDocument = z.strictObject({
  name: z.string().trim().min(1, 'a team has a name').max(60),
  email: z.string().trim().max(200).pipe(z.email('this is no email address')),
  members: z.array(PersonName).max(500).default([]),
  owns: z.array(OwnershipDocument).max(500).default([]),
  /** Log lines that are taken of it a day; null: as many as come. One from before this version has none. */
  linesADay: z.coerce
    .number<number>()
    .int('whole numbers')
    .min(1, 'at least 1')
    .max(1_000_000_000, 'at most 1,000,000,000')
    .nullable()
    .optional(),
});
export type TeamDocument = z.infer<typeof TeamDocument>;

export const GrantDocument = z
  .strictObject({
    /** To a person or to a team; exactly one of the two. */
    person: PersonName.optional(),
    team: DocumentKey.optional(),
    may: Level,
    /** Null: every cluster, or every namespace and the nodes. */
    cluster: ClusterName.nullable().default(null),
    namespace: NamespaceName.nullable().default(null),
  })
  .refine(({ person, team }) => (person === undefined) !== (team === undefined), {
    message: 'a grant is given to one person or to one team',
    path: ['person'],
  });
export type GrantDocument = z.infer<typeof GrantDocument>;

const Days = z.coerce.number<number>().int('whole days').min(1, 'at least 1 day').max(3660, 'at most 10 years');
const Whole = (most: number) =>
  z.coerce.number<number>().int('whole numbers').min(1, 'at least 1').max(most, `at most ${most}`);
const Series = Whole(100_000_000);
/** How long what is kept, and how much may come in. */
export const RetentionKept = z.strictObject({
  /** Every sample as it was read. */
  samplesDays: Days,
  /** Roll-ups by five minutes, and by the hour. */
  fiveMinutesDays: Days,
  hoursDays: Days,
  versionsDays: Days,
  linesDays: Days,
  tracesDays: Days,
  eventsDays: Days,
  alertsDays: Days,
  /** A sample may come so much too late. */
  lateMinutes: Whole(1440),
  pageMegabytes: Whole(256),
  seriesPerEndpoint: Series,
  seriesPerTeam: Series,
  seriesInAll: Series,
  /** Room for the database; 0 lets the disk be asked. */
  spaceGigabytes: z.coerce.number<number>().int('whole numbers').min(0, 'at least 0').max(1_000_000),
});
export type RetentionKept = z.infer<typeof RetentionKept>;
/** Fields that a file from before does not have get what the design names. */
export const RetentionDocument = RetentionKept.extend({
  fiveMinutesDays: Days.default(90),
  hoursDays: Days.default(400),
  linesDays: Days.default(7),
  tracesDays: Days.default(3),
  lateMinutes: RetentionKept.shape.lateMinutes.default(60),
  pageMegabytes: RetentionKept.shape.pageMegabytes.default(32),
  seriesPerEndpoint: Series.default(200_000),
  seriesPerTeam: Series.default(500_000),
  seriesInAll: Series.default(2_000_000),
  spaceGigabytes: RetentionKept.shape.spaceGigabytes.default(0),
});
export type RetentionDocument = z.infer<typeof RetentionDocument>;

export const DOCUMENT_KINDS = [
  'cluster',
  'endpoint',
  'scout',
  'push key',
  'intervals',
  'vitals',
  'team',
  'grant',
  'rule',
  'channel',
  'hush',
  'stretch',
  'mask',
  'follow',
  'forward',
  'measure',
  'criticality',
  'retention',
] as const;
export const DocumentKind = z.enum(DOCUMENT_KINDS);
export type DocumentKind = z.infer<typeof DocumentKind>;
export interface DocumentOf {
  readonly cluster: ClusterDocument;
  readonly endpoint: EndpointDocument;
  readonly scout: ScoutDocument;
  readonly 'push key': PushDocument;
  readonly intervals: IntervalsDocument;
  readonly vitals: VitalsDocument;
  readonly team: TeamDocument;
  readonly grant: GrantDocument;
  readonly rule: RuleDocument;
  readonly channel: ChannelDocument;
  readonly hush: HushDocument;
  readonly stretch: StretchDocument;
  readonly mask: MaskDocument;
  readonly follow: FollowDocument;
  readonly forward: ForwardDocument;
  readonly measure: MeasureDocument;
  readonly criticality: CriticalityDocument;
  readonly retention: RetentionDocument;
}
export const DOCUMENT_SCHEMAS: { readonly [K in DocumentKind]: z.ZodType<DocumentOf[K]> } = {
  cluster: ClusterDocument,
  endpoint: EndpointDocument,
  scout: ScoutDocument,
  'push key': PushDocument,
  intervals: IntervalsDocument,
  vitals: VitalsDocument,
  team: TeamDocument,
  grant: GrantDocument,
  rule: RuleDocument,
  channel: ChannelDocument,
  hush: HushDocument,
  stretch: StretchDocument,
  mask: MaskDocument,
  follow: FollowDocument,
  forward: ForwardDocument,
  measure: MeasureDocument,
  criticality: CriticalityDocument,
  retention: RetentionDocument,
};
/** In a file the documents of a kind stand under this word, by their keys. */
export const SECTION_OF: Readonly<Record<DocumentKind, string>> = {
  cluster: 'clusters',
  endpoint: 'endpoints',
  scout: 'scouts',
  'push key': 'pushKeys',
  intervals: 'intervals',
  vitals: 'vitals',
  team: 'teams',
  grant: 'grants',
  rule: 'rules',
  channel: 'channels',
  hush: 'hushes',
  stretch: 'stretches',
  mask: 'masks',
  follow: 'follows',
  forward: 'forwards',
  measure: 'measures',
  criticality: 'criticality',
  retention: 'retention',
};
export const FILE_VERSION = 1;

// ---- what is asked and answered ---------------------------------------------------------------------------------

export const DocumentDifference = z.object({
  kind: DocumentKind,
  key: z.string(),
  was: z.enum(['added', 'changed', 'removed']),
  lines: z.array(z.object({ is: z.enum(['same', 'added', 'removed']), text: z.string() })),
  /** What applying it does beyond the document itself. */
  warning: z.string().nullable(),
});
export type DocumentDifference = z.infer<typeof DocumentDifference>;

export const RevisionAnswer = z.object({
  id: z.number().int(),
  at: EpochMs,
  by: z.string(),
  what: z.string(),
  changes: z.array(z.object({ kind: DocumentKind, key: z.string(), was: z.enum(['added', 'changed', 'removed']) })),
});
export type RevisionAnswer = z.infer<typeof RevisionAnswer>;
export const RevisionsAnswer = z.object({ revisions: z.array(RevisionAnswer), more: z.boolean() });
export type RevisionsAnswer = z.infer<typeof RevisionsAnswer>;
export const RevisionsQuery = z.object({ before: RowNumber.optional() });
export const RevisionSheet = RevisionAnswer.extend({ differences: z.array(DocumentDifference) });
export type RevisionSheet = z.infer<typeof RevisionSheet>;

export const FileForm = z.enum(['yaml', 'json']);
export const FileQuery = z.object({ as: FileForm.default('yaml') });
export const FileAnswer = z.object({ text: z.string(), revision: z.number().int() });
export type FileAnswer = z.infer<typeof FileAnswer>;

/** `tryOnly` says what would change, and changes nothing. */
export const FileInput = z.object({
  text: z.string().min(1, 'the file is empty').max(2_000_000, 'at most 2 MB'),
  tryOnly: z.boolean(),
});
export type FileInput = z.infer<typeof FileInput>;
export const FileProblem = z.object({
  line: z.number().int().nullable(),
  column: z.number().int().nullable(),
  path: z.string(),
  text: z.string(),
});
export type FileProblem = z.infer<typeof FileProblem>;
export const ChangeAnswer = z.object({
  problems: z.array(FileProblem),
  differences: z.array(DocumentDifference),
  /** The revision that was made; null when nothing was changed. */
  revision: z.number().int().nullable(),
  /** Later revisions that changed the same documents and are taken back with it, newest first. */
  along: z.array(RevisionAnswer.omit({ changes: true })),
});
export type ChangeAnswer = z.infer<typeof ChangeAnswer>;
/**
 * `undo` takes one revision back, `along` with it those that changed the same documents later; `return` makes everything as
 * it was after it.
 */
export const RevisionInput = z.object({
  act: z.enum(['undo', 'return']),
  along: z.boolean().default(false),
  tryOnly: z.boolean(),
});
export type RevisionInput = z.infer<typeof RevisionInput>;
