import type { RunningOutLine } from '@zetopsis/contract';

const rank = ({ outcome }: RunningOutLine): number =>
  outcome.is === 'now' ? 0 : outcome.is === 'date' ? outcome.at : Number.POSITIVE_INFINITY;
/** Soonest first; what does not run out by how near it is. */
export const inTime = (lines: readonly RunningOutLine[]): RunningOutLine[] =>
  [...lines].sort((a, b) =>
    rank(a) === rank(b) ? (b.use ?? 0) / b.limit - (a.use ?? 0) / a.limit : rank(a) - rank(b),
  );

/** A cluster and its nodes are shared by all; what is in a namespace is for those who see it. */
export const mayTell = ({ path }: RunningOutLine, sees: (namespace: string) => boolean): boolean =>
  path[1] === undefined || path[1].startsWith('node:') || sees(path[1]);

/** Whether it is about the object of a path, or about something in it. */
export const concerns = ({ path }: RunningOutLine, of: readonly string[]): boolean =>
  of.length <= path.length && of.every((part, i) => path[i] === part);
