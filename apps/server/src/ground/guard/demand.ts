import type { Level, Reach } from '@zetopsis/core/access';
import { Refusal } from '../platform/refusals.ts';

const WORDS: Record<Level, string> = { read: 'look at', operate: 'operate', administer: 'administer' };

/** Refuses in the same words whether the place exists or not. */
export function demand({
  reach,
  level,
  cluster,
  namespace,
}: {
  readonly reach: Reach;
  readonly level: Level;
  readonly cluster: string;
  readonly namespace: string | null;
}): void {
  if (reach.may(level, cluster, namespace)) return;
  const place = namespace === null ? `the whole of ${cluster}` : `${namespace} of ${cluster}`;
  throw new Refusal(
    'notAllowed',
    `You may not ${WORDS[level]} ${place}. An administrator can grant it (Admin, grants).`,
  );
}
