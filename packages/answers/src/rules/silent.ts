import type { ConnectionAnswer, EndpointAnswer, ObjectPath } from '@zetopsis/contract';
import { writePath } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
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
    yield silentSubject({
      key: `cluster ${connection.id}`,
      cluster: connection.name,
      spot: connectionSpot(connection),
      severity: 'critical',
    });
  for (const { cause, spot } of endpointSpots(
    endpoints.filter(({ connection }) => connection === null || !blind.has(connection)),
  ))
    yield silentSubject({ key: `pages ${cause}`, cluster: null, spot, severity: 'warning' });
}

/** Of a silent cluster nothing is known any more; of a silent page what it alone tells. */
function silentSubject({
  key,
  cluster,
  spot,
  severity,
}: {
  readonly key: string;
  readonly cluster: string | null;
  readonly spot: Spot;
  readonly severity: Severity;
}): Subject {
  const path: ObjectPath = cluster === null ? { is: 'everything' } : { is: 'cluster', cluster };
  return {
    key,
    path,
    name: spot.what,
    there: true,
    verdicts: () => bySeverity(severity, spot.since),
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
