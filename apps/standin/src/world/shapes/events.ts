import { NODE_AGENT } from '../../wire-names.ts';
import { hashOf, uidOf } from '../chance.ts';
import { type ApiObject, iso } from '../objects.ts';

export function eventShape({
  about,
  reason,
  message,
  type,
  firstAt,
  lastAt,
  count,
}: {
  readonly about: { kind: string; object: ApiObject };
  readonly reason: string;
  readonly message: string;
  readonly type: 'Normal' | 'Warning';
  readonly firstAt: number;
  readonly lastAt: number;
  readonly count: number;
}): ApiObject {
  const { namespace = 'default', name, uid } = about.object.metadata;
  return {
    metadata: {
      name: `${name}.${hashOf(`${uid} ${reason} ${firstAt}`).toString(16)}`,
      namespace,
      uid: uidOf(`event ${uid} ${reason} ${firstAt}`),
      resourceVersion: '',
      creationTimestamp: iso(firstAt),
    },
    involvedObject: {
      kind: about.kind,
      namespace,
      name,
      uid,
      apiVersion: about.kind === 'Pod' || about.kind === 'Node' ? 'v1' : 'apps/v1',
    },
    reason,
    message,
    type,
    count,
    firstTimestamp: iso(firstAt),
    lastTimestamp: iso(lastAt),
    source: { component: NODE_AGENT },
  };
}
