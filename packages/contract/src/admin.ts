import { z } from 'zod';
import { Level, NewPassword, PermitAnswer, PersonName, Role, RowNumber } from './access.ts';
import { OwnershipAnswer, RetentionKept, TeamDocument } from './configuration.ts';
import { DocumentKey } from './objectNames.ts';
import { ClusterName } from './sources.ts';
import { EpochMs } from './time.ts';

export const PersonAnswer = z.object({
  id: z.uuid(),
  name: z.string(),
  role: Role,
  createdAt: EpochMs,
  lastSignInAt: EpochMs.nullable(),
});
export type PersonAnswer = z.infer<typeof PersonAnswer>;

export const NewPerson = z.object({ name: PersonName, role: Role, password: NewPassword });
export type NewPerson = z.infer<typeof NewPerson>;
/** What is not given stays. A new password ends the person's sessions. */
export const PersonChange = z.object({ role: Role.optional(), password: NewPassword.optional() });
export type PersonChange = z.infer<typeof PersonChange>;
export const OwnPassword = z.object({
  old: z.string().min(1, 'your present password is missing').max(200),
  password: NewPassword,
});
export type OwnPassword = z.infer<typeof OwnPassword>;

export const AuditOutcome = z.enum(['done', 'refused', 'failed']);
export const AuditEntry = z.object({
  id: z.number().int(),
  at: EpochMs,
  /** A person's name, "Zetopsis", or "a stranger". */
  who: z.string(),
  by: z.enum(['person', 'token', 'zetopsis', 'stranger']),
  action: z.string(),
  on: z.string(),
  outcome: AuditOutcome,
  detail: z.string(),
  from: z.string(),
});
export type AuditEntry = z.infer<typeof AuditEntry>;

export const AuditQuery = z.object({
  text: z.string().trim().max(200).default(''),
  by: z.enum(['anyone', 'people', 'zetopsis']).default('anyone'),
  /** Entries older than this one. */
  before: RowNumber.optional(),
});
export type AuditQuery = z.infer<typeof AuditQuery>;
export const AuditAnswer = z.object({ entries: z.array(AuditEntry), more: z.boolean() });
export type AuditAnswer = z.infer<typeof AuditAnswer>;

// ---- teams and grants -------------------------------------------------------------------------------------------

export const TeamAnswer = TeamDocument.extend({
  key: z.string(),
  /** Without the checks of input: what is stored is shown. */
  email: z.string(),
  members: z.array(z.string()),
  owns: z.array(OwnershipAnswer),
  /** Namespaces it owns now, with the reason. */
  namespaces: z.array(z.object({ cluster: z.string(), namespace: z.string(), why: z.string() })),
});
export type TeamAnswer = z.infer<typeof TeamAnswer>;
export const TeamsAnswer = z.object({
  teams: z.array(TeamAnswer),
  unowned: z.array(z.object({ cluster: z.string(), namespace: z.string() })),
});
export type TeamsAnswer = z.infer<typeof TeamsAnswer>;

export const GrantAnswer = z.object({
  key: z.string(),
  person: z.string().nullable(),
  team: z.object({ key: DocumentKey, name: z.string() }).nullable(),
  may: Level,
  cluster: z.string().nullable(),
  namespace: z.string().nullable(),
});
export type GrantAnswer = z.infer<typeof GrantAnswer>;

/** What a person can see, and why. */
export const SightAnswer = z.object({
  person: z.string(),
  teams: z.array(z.string()),
  permits: z.array(PermitAnswer),
  clusters: z.array(
    z.object({
      cluster: z.string(),
      whole: z.boolean(),
      namespaces: z.array(z.object({ namespace: z.string(), level: Level, why: z.array(z.string()) })),
      /** How many namespaces of it the person cannot see. */
      hidden: z.number().int(),
    }),
  ),
});
export type SightAnswer = z.infer<typeof SightAnswer>;

// ---- tokens -----------------------------------------------------------------------------------------------------

const TokenBound = z.object({
  level: Level,
  cluster: ClusterName.nullable().default(null),
  namespace: z.string().trim().max(63).nullable().default(null),
});
export const TokenInput = z.object({
  name: z.string().trim().min(1, 'what is it for?').max(60),
  days: z.coerce.number<number>().int().min(1, 'at least 1 day').max(366, 'at most a year'),
  bound: TokenBound,
});
export type TokenInput = z.infer<typeof TokenInput>;
export const TokenAnswer = z.object({
  id: z.uuid(),
  name: z.string(),
  bound: z.object({ level: Level, cluster: z.string().nullable(), namespace: z.string().nullable() }),
  createdAt: EpochMs,
  expiresAt: EpochMs,
  lastUsedAt: EpochMs.nullable(),
});
export type TokenAnswer = z.infer<typeof TokenAnswer>;
/** The only time the token itself is told. */
export const NewTokenAnswer = TokenAnswer.extend({ token: z.string() });
export type NewTokenAnswer = z.infer<typeof NewTokenAnswer>;

// ---- retention --------------------------------------------------------------------------------------------------

export const RetentionAnswer = z.object({
  keep: RetentionKept,
  held: z.array(
    z.object({ what: z.string(), oldestAt: EpochMs.nullable(), rows: z.number().int(), bytes: z.number().int() }),
  ),
  lastCleanedAt: EpochMs.nullable(),
  problem: z.string().nullable(),
});
export type RetentionAnswer = z.infer<typeof RetentionAnswer>;
