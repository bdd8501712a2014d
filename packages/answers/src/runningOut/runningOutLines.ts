import { EVERYTHING, liesIn, namespaceOf, type ObjectPath, type RunningOutLine, readPath } from '@zetopsis/contract';

const rank = ({ outcome }: RunningOutLine): number =>
  outcome.is === 'now' ? 0 : outcome.is === 'date' ? outcome.at : Number.POSITIVE_INFINITY;
/** Soonest first; what does not run out by how near it is. */
export const inTime = (lines: readonly RunningOutLine[]): RunningOutLine[] =>
  [...lines].sort((a, b) =>
    rank(a) === rank(b) ? (b.use ?? 0) / b.limit - (a.use ?? 0) / a.limit : rank(a) - rank(b),
  );

/** A cluster and its nodes are shared by all; what is in a namespace is for those who see it. */
export function mayTell({ path }: RunningOutLine, sees: (namespace: string) => boolean): boolean {
  const place = readPath(path);
  // what cannot be read may be anybody's
  if (place === null) return false;
  const namespace = namespaceOf(place);
  return namespace === null || sees(namespace);
}

/** Whether it is about the object of a path, or about something in it. */
export const concerns = ({ path }: RunningOutLine, of: ObjectPath): boolean => liesIn(readPath(path) ?? EVERYTHING, of);
