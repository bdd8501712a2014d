import { HOST_LABEL, NAMESPACE_LABEL, NODE_CLASS_LABEL, NODE_ENDPOINT_FIELD, ZONE_LABEL } from '../../wire-names.ts';
import { uidOf } from '../chance.ts';
import { type ApiObject, iso } from '../objects.ts';
import { NODE_CLASSES, type NodePlan } from '../scenario/index.ts';

export function nodeShape(plan: NodePlan, seed: string, createdAt: number, port: number, now: number): ApiObject {
  const size = NODE_CLASSES[plan.nodeClass];
  const condition = (type: string, status: string, reason: string, message: string) => ({
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
        condition('MemoryPressure', 'False', 'SufficientMemory', 'enough memory is free'),
        condition('DiskPressure', 'False', 'NoDiskPressure', 'enough disk space is free'),
        condition('PIDPressure', 'False', 'SufficientProcessNumbers', 'enough process numbers are free'),
        condition('Ready', 'True', 'NodeReady', 'the node takes pods'),
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

export function namespaceShape(name: string, team: string, seed: string, createdAt: number): ApiObject {
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
