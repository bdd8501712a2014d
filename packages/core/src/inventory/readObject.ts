import type {
  ClusterEvent,
  Condition,
  ContainerEnd,
  ContainerObject,
  ContainerRole,
  ContainerState,
  InventoryKind,
  InventoryObject,
  NodeObject,
  PodObject,
  WorkloadObject,
} from './objects.ts';
import { quantityNumber } from './quantity.ts';
import { NODE_CLASS_LABEL, NODE_ENDPOINT_FIELD, REVISION_ANNOTATION, ZONE_LABEL } from './wire-names.ts';
import * as wire from './wireReader.ts';

type Wire = wire.Wire;

function common(object: Wire) {
  const meta = wire.child(object, 'metadata');
  const owners = wire.list(meta, 'ownerReferences');
  const owner = owners.find((candidate) => wire.flag(candidate, 'controller')) ?? null;
  return {
    uid: wire.text(meta, 'uid'),
    name: wire.text(meta, 'name'),
    namespace: wire.optionalText(meta, 'namespace'),
    createdAt: wire.time(meta, 'creationTimestamp') ?? 0,
    deletingSince: wire.time(meta, 'deletionTimestamp'),
    labels: wire.texts(meta, 'labels'),
    owner: owner && { kind: wire.text(owner, 'kind'), name: wire.text(owner, 'name'), uid: wire.text(owner, 'uid') },
  };
}

/** Heartbeat and probe times are left out on purpose: they change without anything having happened. */
function conditions(status: Wire): Condition[] {
  return wire.list(status, 'conditions').map((condition) => {
    const value = wire.text(condition, 'status');
    return {
      type: wire.text(condition, 'type'),
      status: value === 'True' ? 'true' : value === 'False' ? 'false' : 'unknown',
      reason: wire.text(condition, 'reason'),
      message: wire.text(condition, 'message'),
      since: wire.time(condition, 'lastTransitionTime'),
    };
  });
}

function readNode(object: Wire): NodeObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  const allocatable = wire.texts(status, 'allocatable');
  const addresses = wire.list(status, 'addresses');
  const address = addresses.find((entry) => wire.text(entry, 'type') === 'InternalIP') ?? addresses[0];
  const base = common(object);
  return {
    kind: 'node',
    ...base,
    allocatable: {
      cpu: quantityNumber(allocatable['cpu']),
      memory: quantityNumber(allocatable['memory']),
      pods: quantityNumber(allocatable['pods']),
    },
    acceptsPods: !wire.flag(spec, 'unschedulable'),
    zone: base.labels[ZONE_LABEL] ?? null,
    nodeClass: base.labels[NODE_CLASS_LABEL] ?? null,
    address: address ? wire.optionalText(address, 'address') : null,
    port: wire.optionalCount(wire.child(wire.child(status, 'daemonEndpoints'), NODE_ENDPOINT_FIELD), 'Port'),
    conditions: conditions(status),
  };
}

function containerEnd(state: Wire): ContainerEnd {
  return {
    reason: wire.text(state, 'reason'),
    message: wire.text(state, 'message'),
    exitCode: wire.optionalCount(state, 'exitCode'),
    signal: wire.optionalCount(state, 'signal'),
    startedAt: wire.time(state, 'startedAt'),
    endedAt: wire.time(state, 'finishedAt'),
  };
}

function containerState(state: Wire): ContainerState {
  if (wire.has(state, 'running')) return { is: 'running', since: wire.time(wire.child(state, 'running'), 'startedAt') };
  if (wire.has(state, 'terminated')) return { is: 'ended', ...containerEnd(wire.child(state, 'terminated')) };
  if (wire.has(state, 'waiting')) {
    const waiting = wire.child(state, 'waiting');
    return { is: 'waiting', reason: wire.text(waiting, 'reason'), message: wire.text(waiting, 'message') };
  }
  return { is: 'unknown' };
}

function readContainer(spec: Wire, statuses: Wire[], role: ContainerRole): ContainerObject {
  const resources = wire.child(spec, 'resources');
  const requests = wire.texts(resources, 'requests');
  const limits = wire.texts(resources, 'limits');
  const name = wire.text(spec, 'name');
  const status = statuses.find((candidate) => wire.text(candidate, 'name') === name) ?? {};
  const last = wire.child(wire.child(status, 'lastState'), 'terminated');
  return {
    name,
    role,
    image: wire.text(spec, 'image'),
    ports: wire.list(spec, 'ports').map((port) => wire.count(port, 'containerPort')),
    cpuRequest: quantityNumber(requests['cpu']),
    cpuLimit: quantityNumber(limits['cpu']),
    memoryRequest: quantityNumber(requests['memory']),
    memoryLimit: quantityNumber(limits['memory']),
    ready: wire.flag(status, 'ready'),
    restarts: wire.count(status, 'restartCount'),
    state: containerState(wire.child(status, 'state')),
    lastEnd: Object.keys(last).length > 0 ? containerEnd(last) : null,
  };
}

const PHASES: Record<string, PodObject['phase']> = {
  Pending: 'pending',
  Running: 'running',
  Succeeded: 'succeeded',
  Failed: 'failed',
};

function readPod(object: Wire): PodObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  const overhead = wire.texts(spec, 'overhead');
  const startUp = wire.list(status, 'initContainerStatuses');
  const lasting = wire.list(status, 'containerStatuses');
  const mains = wire.list(spec, 'containers');
  return {
    kind: 'pod',
    ...common(object),
    phase: PHASES[wire.text(status, 'phase')] ?? 'unknown',
    reason: wire.text(status, 'reason'),
    message: wire.text(status, 'message'),
    node: wire.optionalText(spec, 'nodeName'),
    overhead: { cpu: quantityNumber(overhead['cpu']) ?? 0, memory: quantityNumber(overhead['memory']) ?? 0 },
    containers: [
      ...mains.map((container) => readContainer(container, lasting, 'main')),
      ...wire.list(spec, 'initContainers').map((container) =>
        // a start-up container that is always restarted lasts beside the main ones: a helper
        readContainer(container, startUp, wire.text(container, 'restartPolicy') === 'Always' ? 'helper' : 'start-up'),
      ),
    ],
    conditions: conditions(status),
  };
}

const observed = (object: Wire) =>
  wire.count(wire.child(object, 'status'), 'observedGeneration') >=
  wire.count(wire.child(object, 'metadata'), 'generation');

function images(spec: Wire): WorkloadObject['images'] {
  const pod = wire.child(wire.child(spec, 'template'), 'spec');
  return [...wire.list(pod, 'containers'), ...wire.list(pod, 'initContainers')].map((container) => ({
    container: wire.text(container, 'name'),
    image: wire.text(container, 'image'),
  }));
}

function readReplicated(object: Wire, kind: 'deployment' | 'replica set'): WorkloadObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  const present = wire.count(status, 'replicas');
  return {
    kind,
    ...common(object),
    desired: wire.count(spec, 'replicas', 1),
    present,
    ready: wire.count(status, 'readyReplicas'),
    updated: kind === 'deployment' ? wire.count(status, 'updatedReplicas') : present,
    available: wire.count(status, 'availableReplicas'),
    paused: wire.flag(spec, 'paused'),
    observed: observed(object),
    images: images(spec),
    revision: wire.texts(wire.child(object, 'metadata'), 'annotations')[REVISION_ANNOTATION] ?? null,
    conditions: conditions(status),
  };
}

function readDaemonSet(object: Wire): WorkloadObject {
  const status = wire.child(object, 'status');
  return {
    kind: 'daemon set',
    ...common(object),
    desired: wire.count(status, 'desiredNumberScheduled'),
    present: wire.count(status, 'currentNumberScheduled'),
    ready: wire.count(status, 'numberReady'),
    updated: wire.count(status, 'updatedNumberScheduled'),
    available: wire.count(status, 'numberAvailable'),
    paused: false,
    observed: observed(object),
    images: images(wire.child(object, 'spec')),
    revision: null,
    conditions: conditions(status),
  };
}

/** One object of the cluster API → one of the inventory. Null when it has no identity. */
export function readObject(kind: InventoryKind, foreign: unknown): InventoryObject | null {
  const object = wire.asWire(foreign);
  const read = (): InventoryObject => {
    switch (kind) {
      case 'node':
        return readNode(object);
      case 'namespace':
        return {
          kind,
          ...common(object),
          phase: wire.text(wire.child(object, 'status'), 'phase'),
          annotations: wire.texts(wire.child(object, 'metadata'), 'annotations'),
        };
      case 'pod':
        return readPod(object);
      case 'deployment':
      case 'replica set':
        return readReplicated(object, kind);
      case 'daemon set':
        return readDaemonSet(object);
    }
  };
  const result = read();
  return result.uid === '' || result.name === '' ? null : result;
}

export function readEvent(foreign: unknown): ClusterEvent | null {
  const object = wire.asWire(foreign);
  const meta = wire.child(object, 'metadata');
  const about = wire.child(object, 'involvedObject');
  const created = wire.time(meta, 'creationTimestamp') ?? 0;
  const first = wire.time(object, 'firstTimestamp') ?? wire.time(object, 'eventTime') ?? created;
  const uid = wire.text(meta, 'uid');
  if (uid === '') return null;
  return {
    uid,
    namespace: wire.optionalText(meta, 'namespace'),
    about: { kind: wire.text(about, 'kind'), name: wire.text(about, 'name'), uid: wire.text(about, 'uid') },
    type: wire.text(object, 'type') === 'Warning' ? 'warning' : 'normal',
    reason: wire.text(object, 'reason'),
    message: wire.text(object, 'message'),
    count: Math.max(1, wire.count(object, 'count', 1)),
    firstAt: first,
    lastAt: wire.time(object, 'lastTimestamp') ?? first,
  };
}
