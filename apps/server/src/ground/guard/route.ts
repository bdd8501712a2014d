import { SetMetadata } from '@nestjs/common';
import type { Person } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import type { Request } from 'express';

export const OPEN = 'open';
export const ADMINISTRATORS = 'administrators';
export const IN_PERSON = 'inPerson';
export const STANDING = 'standing';
export const COOKIE = 'zetopsis_session';

/** For routes that serve people who have not signed in. Everything else refuses strangers. */
export const Open = () => SetMetadata(OPEN, true);
/** For routes that need administering everywhere. */
export const Administrators = () => SetMetadata(ADMINISTRATORS, true);
/** Not for tokens: what only the person at the page may do. */
export const InPerson = () => SetMetadata(IN_PERSON, true);

/** The secret of the session that a request comes with; empty where it has none. */
export function sessionOf(request: Request): string {
  const secret: unknown = (request.cookies as Record<string, unknown> | undefined)?.[COOKIE];
  return typeof secret === 'string' && secret.length < 200 ? secret : '';
}

/** An answer that goes on as long as the page is open: it waits for no turn, and takes none from others. */
export const Standing = () => SetMetadata(STANDING, true);

export interface KnownRequest extends Request {
  person: Person;
  /** What may be seen and done with this request; a token narrows what its person may. */
  reach: Reach;
  /** The name of the token, when it was one. */
  token: string | null;
  /** As the audit log and revisions name who asks. */
  who: string;
}
