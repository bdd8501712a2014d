import { z } from 'zod';

/** A member sees what the own teams own and what was granted; an administrator everything. */
export const Role = z.enum(['administrator', 'member']);
export type Role = z.infer<typeof Role>;

/** What somebody may do at a place; each level holds the ones before it. */
export const Level = z.enum(['read', 'operate', 'administer']);
export type Level = z.infer<typeof Level>;

export const Person = z.object({ id: z.uuid(), name: z.string(), role: Role });
export type Person = z.infer<typeof Person>;

export const PersonName = z
  .string()
  .trim()
  .toLowerCase()
  .regex(/^[a-z][a-z0-9._-]{1,39}$/, 'a name is 2 to 40 small letters, digits, dots, dashes, starting with a letter');
export const NewPassword = z.string().min(10, 'a password has at least 10 characters').max(200);

export const SignIn = z.object({
  name: z.string().trim().toLowerCase().min(1, 'who are you?').max(60),
  password: z.string().min(1, 'the password is missing').max(200),
});
export type SignIn = z.infer<typeof SignIn>;

export const FirstPerson = z.object({
  code: z.string().trim().min(1, 'the code is missing').max(60),
  name: PersonName,
  password: NewPassword,
});
export type FirstPerson = z.infer<typeof FirstPerson>;

export const PermitAnswer = z.object({
  level: Level,
  /** Null: every cluster; every namespace with the nodes. */
  cluster: z.string().nullable(),
  namespace: z.string().nullable(),
  why: z.string(),
  own: z.boolean(),
});
export type PermitAnswer = z.infer<typeof PermitAnswer>;

/** What the page may know before anybody signs in. */
export const SessionAnswer = z.object({
  person: Person.nullable(),
  /** Nobody has an account yet: the code printed at the start makes the first administrator. */
  firstStart: z.boolean(),
  demo: z
    .object({
      people: z.array(z.object({ name: z.string(), does: z.string() })),
      password: z.string(),
      mailPage: z.string(),
    })
    .nullable(),
  zone: z.string(),
  /** Names of the teams the person is in. */
  teams: z.array(z.string()),
  /** What the person may see and do, and why. */
  permits: z.array(PermitAnswer),
  /** Names of those who can grant more; for those who are signed in. */
  administrators: z.array(z.string()),
});
export type SessionAnswer = z.infer<typeof SessionAnswer>;

/** Number of a row, as a path or a query has it: what the database can hold. */
export const RowNumber = z.coerce
  .number<string>()
  .int()
  .positive()
  .max(2 ** 31 - 1);
