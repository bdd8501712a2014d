import { NODE_AGENT } from '../../wire-names.ts';
import { hashOf, uidOf } from '../chance.ts';
import { type ApiObject, iso } from '../objects.ts';

export function eventShape(
  about: { kind: string; object: ApiObject },
  reason: string,
  message: string,
  type: 'Normal' | 'Warning',
  firstAt: number,
  lastAt: number,
  count: number,
): ApiObject {
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
