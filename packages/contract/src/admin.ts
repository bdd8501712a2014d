import { z } from 'zod';
import { NewPassword, PersonName, Role } from './access.ts';
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
  by: z.enum(['person', 'zetopsis', 'stranger']),
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
  before: z.coerce.number<string>().int().positive().optional(),
});
export type AuditQuery = z.infer<typeof AuditQuery>;
export const AuditAnswer = z.object({ entries: z.array(AuditEntry), more: z.boolean() });
export type AuditAnswer = z.infer<typeof AuditAnswer>;
