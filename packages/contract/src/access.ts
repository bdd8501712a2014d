import { z } from 'zod';

export const Role = z.enum(['administrator', 'reader']);
export type Role = z.infer<typeof Role>;

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
});
export type SessionAnswer = z.infer<typeof SessionAnswer>;
