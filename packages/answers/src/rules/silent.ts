import type { ConnectionAnswer, EndpointAnswer, ObjectPath } from '@zetopsis/contract';
import { writePath } from '@zetopsis/contract';
import { formatDuration } from '@zetopsis/core/format';
import { bySeverity } from '@zetopsis/core/rules';
import { connectionSpot, endpointSpots, type Spot } from '../now/index.ts';
import type { Subject } from './subject.ts';

/** Sources that nothing comes from, one cause once: of a blind cluster nothing is told of its pages. What pages say is for those who see everything. */
export function* silentSubjects(
  connections: readonly ConnectionAnswer[],
  endpoints: readonly EndpointAnswer[],
): Generator<Subject> {
  const silent = connections.filter(({ state }) => state !== 'reading' && state !== 'connecting');
  const blind = new Set(silent.map(({ name }) => name));
  for (const connection of silent)
    yield silentSubject(`cluster ${connection.id}`, connection.name, connectionSpot(connection));
  for (const { cause, spot } of endpointSpots(
    endpoints.filter(({ connection }) => connection === null || !blind.has(connection)),
  ))
    yield silentSubject(`pages ${cause}`, null, spot);
}

function silentSubject(key: string, cluster: string | null, spot: Spot): Subject {
  const path: ObjectPath = cluster === null ? { is: 'everything' } : { is: 'cluster', cluster };
  return {
    key,
    path,
    name: spot.what,
    there: true,
    // whoever cannot be read is missed whatever else is: there are no lighter ones
    verdicts: () => bySeverity('critical', spot.since),
    value: () => spot.reason,
    facts: (at, since) => ({
      title: `Nothing comes from ${spot.what}`,
      path: writePath(path),
      place: cluster === null ? ['outside of all clusters'] : [cluster],
      value: `silent for ${formatDuration(at - since)}`,
      limit: '',
      share: 0,
      reason: spot.reason,
      evidence: '',
      changed: null,
      nextStep: spot.nextStep ?? 'Sources says what happened at each try.',
    }),
  };
}
