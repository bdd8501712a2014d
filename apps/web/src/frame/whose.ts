import type { SessionAnswer } from '@zetopsis/contract';

type Permits = Pick<SessionAnswer, 'permits'> | undefined;

/** In a team that owns something: then there is a choice between that and all one may see. */
export const ownsSomething = (session: Permits): boolean => session?.permits.some(({ own }) => own) ?? false;

/** Who reads every cluster looks at everything first; everybody else at what the own teams own. */
export const looksAtOwn = (session: Permits): boolean =>
  ownsSomething(session) &&
  !(session?.permits ?? []).some(({ cluster, namespace }) => cluster === null && namespace === null);

/** Whether there is nothing that somebody may not read. */
export const seesEverything = (session: Pick<SessionAnswer, 'permits' | 'person'> | undefined): boolean =>
  session?.person?.role === 'administrator' ||
  (session?.permits ?? []).some(({ cluster, namespace }) => cluster === null && namespace === null);
