import { HOST_LABEL, NAMESPACE_LABEL, NODE_CLASS_LABEL, NODE_ENDPOINT_FIELD, ZONE_LABEL } from '../../wire-names.ts';
import { uidOf } from '../chance.ts';
import { type ApiObject, iso } from '../objects.ts';
import { NODE_CLASSES, type NodePlan } from '../scenario/index.ts';

export function nodeShape({
  plan,
  seed,
  createdAt,
  port,
  now,
}: {
  readonly plan: NodePlan;
  readonly seed: string;
  readonly createdAt: number;
  readonly port: number;
  readonly now: number;
}): ApiObject {
  const size = NODE_CLASSES[plan.nodeClass];
  const condition = ({
    type,
    status,
    reason,
    message,
  }: {
    readonly type: string;
    readonly status: string;
    readonly reason: string;
    readonly message: string;
  }) => ({
    type,
    status,
    lastHeartbeatTime: iso(now),
    lastTransitionTime: iso(createdAt + 60_000),
    reason,
    message,
  });
  return {
    metadata: {
      name: plan.name,
      uid: uidOf(`${seed} node ${plan.name}`),
      resourceVersion: '',
      creationTimestamp: iso(createdAt),
      labels: { [ZONE_LABEL]: plan.zone, [NODE_CLASS_LABEL]: plan.nodeClass, [HOST_LABEL]: plan.name },
    },
    spec: {},
    status: {
      capacity: { cpu: String(size.cores), memory: size.size, pods: String(size.pods) },
      allocatable: { cpu: size.cpu, memory: size.memory, pods: String(size.pods) },
      conditions: [
        condition({
          type: 'MemoryPressure',
          status: 'False',
          reason: 'SufficientMemory',
          message: 'enough memory is free',
        }),
        condition({
          type: 'DiskPressure',
          status: 'False',
          reason: 'NoDiskPressure',
          message: 'enough disk space is free',
        }),
        condition({
          type: 'PIDPressure',
          status: 'False',
          reason: 'SufficientProcessNumbers',
          message: 'enough process numbers are free',
        }),
        condition({ type: 'Ready', status: 'True', reason: 'NodeReady', message: 'the node takes pods' }),
      ],
      addresses: [
        { type: 'InternalIP', address: '127.0.0.1' },
        { type: 'Hostname', address: plan.name },
      ],
      daemonEndpoints: { [NODE_ENDPOINT_FIELD]: { Port: port } },
      nodeInfo: { operatingSystem: 'linux', architecture: 'amd64', kernelVersion: '6.1.0', osImage: 'harbour linux' },
    },
  };
}

export function namespaceShape({
  name,
  team,
  seed,
  createdAt,
}: {
  readonly name: string;
  readonly team: string;
  readonly seed: string;
  readonly createdAt: number;
}): ApiObject {
  return {
    metadata: {
      name,
      uid: uidOf(`${seed} namespace ${name}`),
      resourceVersion: '',
      creationTimestamp: iso(createdAt),
      labels: { [NAMESPACE_LABEL]: name, team },
    },
    spec: {},
    status: { phase: 'Active' },
  };
}
