import type { PushDocument } from '@zetopsis/contract';
import type { DocumentChange, DocumentProblem, Documents } from '../../ground/configuration/documents.ts';

/** A key belongs to a cluster and a team that are there. */
export const whereKeysBelong = (wanted: Documents, changes: readonly DocumentChange[]): DocumentProblem[] =>
  changes.flatMap((change) => {
    if (change.kind !== 'push key' || change.after === null) return [];
    const { cluster, team } = change.after as PushDocument; // of its kind
    const at = (path: string, text: string) => [{ kind: 'push key' as const, key: change.key, path: [path], text }];
    if (cluster !== null && wanted.get('cluster', cluster) === null)
      return at('cluster', `There is no cluster called ${cluster}.`);
    if (team !== null && wanted.get('team', team) === null) return at('team', `There is no team called ${team}.`);
    return [];
  });
