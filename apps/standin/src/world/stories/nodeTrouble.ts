import { hashOf, nameSuffix } from '../chance.ts';
import type { Inhabited } from '../inhabited.ts';
import { iso } from '../objects.ts';
import { DAY, HOUR, MINUTE } from '../scenario/index.ts';
import { eventShape } from '../shapes/events.ts';
import { endedPod } from '../shapes/pods.ts';

/** Story 4: the node, and the workloads that lost a pod on it. */
const TROUBLED = {
  node: 'seaward-07',
  before: 14 * HOUR,
  notReady: 6 * MINUTE,
  evicted: ['berths/quay-board', 'tides/chart-tiles', 'yard-cranes/crane-scheduler'],
};

/** Story 4: what is left of it 14 hours later: conditions with their times, events, the pods that were put out. */
export function layNodeTrouble(world: Inhabited, now: number): void {
  const { store, options } = world;
  const down = options.start - TROUBLED.before;
  const back = down + TROUBLED.notReady;
  world.change('nodes', undefined, TROUBLED.node, now, (node) => {
    for (const condition of node['status'].conditions) {
      if (condition.type === 'Ready') condition.lastTransitionTime = iso(back);
      if (condition.type === 'MemoryPressure') condition.lastTransitionTime = iso(back + 9 * MINUTE);
    }
  });
  const object = store.get('nodes', undefined, TROUBLED.node)!;
  const said = ({
    reason,
    message,
    at,
    type = 'Normal',
  }: {
    readonly reason: string;
    readonly message: string;
    readonly at: number;
    readonly type?: 'Normal' | 'Warning';
  }) =>
    store.put({
      kind: 'events',
      object: eventShape({
        about: { kind: 'Node', object },
        reason,
        message,
        type,
        firstAt: at,
        lastAt: at,
        count: 1,
      }),
      at: now,
    });
  said({
    reason: 'NodeHasInsufficientMemory',
    message: `Node ${TROUBLED.node} is short of memory`,
    at: down - 5 * MINUTE,
    type: 'Warning',
  });
  said({ reason: 'NodeNotReady', message: `Node ${TROUBLED.node} is not ready`, at: down, type: 'Warning' });
  said({ reason: 'NodeReady', message: `Node ${TROUBLED.node} is ready`, at: back });
  for (const path of TROUBLED.evicted) {
    const [namespace = '', name = ''] = path.split('/');
    const plan = world.plan(namespace, name)!;
    const [set] = store
      .list('replicasets')
      .filter((one) => one.metadata.namespace === namespace && one.metadata.labels?.['app'] === name);
    const createdAt = options.start - 3 * DAY - (hashOf(name) % 1000);
    const pod = world.addPod(
      {
        plan,
        owner: { kind: 'ReplicaSet', name: set!.metadata.name, uid: set!.metadata.uid },
        name: `${set!.metadata.name}-${nameSuffix(`${path} evicted`, 5)}`,
        labels: { ...set!.metadata.labels },
        image: plan.image,
        createdAt,
        start: { is: 'running', since: createdAt + 4000 },
        node: TROUBLED.node,
      },
      now,
    );
    const message = 'The node was low on resource: memory.';
    const at = down - 2 * MINUTE;
    const evicted = endedPod(pod, { failed: true, reason: 'Evicted', message, code: 137, at, from: createdAt });
    store.put({ kind: 'pods', object: evicted, at: now });
    store.put({
      kind: 'events',
      object: eventShape({
        about: { kind: 'Pod', object: evicted },
        reason: 'Evicted',
        message,
        type: 'Warning',
        firstAt: at,
        lastAt: at,
        count: 1,
      }),
      at: now,
    });
    world.count(namespace, name, now);
  }
}
