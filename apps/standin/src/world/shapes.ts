import {
  HOST_LABEL,
  NAMESPACE_LABEL,
  NODE_AGENT,
  NODE_CLASS_LABEL,
  NODE_ENDPOINT_FIELD,
  REVISION_ANNOTATION,
  ZONE_LABEL,
} from '../wire-names.ts';
import { hashOf, uidOf } from './chance.ts';
import { type ApiObject, iso } from './objects.ts';
import { NODE_CLASSES, type NodePlan, REGISTRY, type WorkloadPlan } from './scenario.ts';

/** Builds objects in their usual JSON shape. Pure: the world decides when and which. */

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

function resources(plan: WorkloadPlan) {
  return {
    requests: { cpu: plan.cpu.request, memory: plan.memory.request },
    limits: {
      ...(plan.cpu.limit === null ? {} : { cpu: plan.cpu.limit }),
      ...(plan.memory.limit === null ? {} : { memory: plan.memory.limit }),
    },
  };
}

export const HELPER = { name: 'door-keeper', image: `${REGISTRY}/platform/door-keeper:1.6.0` };
const START_UP = { name: 'lay-schema', image: `${REGISTRY}/platform/lay-schema:2.0.0` };

function podTemplate(plan: WorkloadPlan, image: string) {
  const initContainers = [
    ...(plan.startUp
      ? [
          {
            ...START_UP,
            resources: { requests: { cpu: '100m', memory: '64Mi' }, limits: { cpu: '200m', memory: '128Mi' } },
          },
        ]
      : []),
    ...(plan.helper
      ? [
          {
            ...HELPER,
            restartPolicy: 'Always',
            resources: { requests: { cpu: '50m', memory: '48Mi' }, limits: { cpu: '100m', memory: '96Mi' } },
          },
        ]
      : []),
  ];
  return {
    metadata: { labels: { app: plan.name } },
    spec: {
      containers: [
        {
          name: plan.name,
          image,
          ports: [{ containerPort: 8080, protocol: 'TCP', name: 'http' }],
          resources: resources(plan),
          imagePullPolicy: 'IfNotPresent',
        },
      ],
      ...(initContainers.length > 0 ? { initContainers } : {}),
      restartPolicy: 'Always',
      terminationGracePeriodSeconds: 30,
    },
  };
}

export interface Owner {
  readonly kind: 'Deployment' | 'ReplicaSet' | 'DaemonSet';
  readonly name: string;
  readonly uid: string;
}
const ownerReference = (owner: Owner) => ({
  apiVersion: 'apps/v1',
  kind: owner.kind,
  name: owner.name,
  uid: owner.uid,
  controller: true,
  blockOwnerDeletion: true,
});

export function deploymentShape(
  plan: WorkloadPlan,
  seed: string,
  createdAt: number,
  image: string,
  revision: number,
): ApiObject {
  return {
    metadata: {
      name: plan.name,
      namespace: plan.namespace,
      uid: uidOf(`${seed} deployment ${plan.namespace}/${plan.name}`),
      resourceVersion: '',
      generation: revision,
      creationTimestamp: iso(createdAt),
      labels: { app: plan.name },
      annotations: { [REVISION_ANNOTATION]: String(revision) },
    },
    spec: {
      replicas: plan.replicas,
      selector: { matchLabels: { app: plan.name } },
      strategy: { type: 'RollingUpdate', rollingUpdate: { maxSurge: 0, maxUnavailable: 2 } },
      progressDeadlineSeconds: 600,
      template: podTemplate(plan, image),
    },
    status: {},
  };
}

export function replicaSetShape(
  plan: WorkloadPlan,
  deployment: ApiObject,
  hash: string,
  createdAt: number,
  image: string,
  replicas: number,
): ApiObject {
  const name = `${plan.name}-${hash}`;
  const template = podTemplate(plan, image);
  const labels = { app: plan.name, 'pod-template-hash': hash };
  return {
    metadata: {
      name,
      namespace: plan.namespace,
      uid: uidOf(`${deployment.metadata.uid} ${hash} ${createdAt}`),
      resourceVersion: '',
      generation: 1,
      creationTimestamp: iso(createdAt),
      labels,
      annotations: { ...deployment.metadata.annotations },
      ownerReferences: [ownerReference({ kind: 'Deployment', name: plan.name, uid: deployment.metadata.uid })],
    },
    spec: { replicas, selector: { matchLabels: labels }, template: { ...template, metadata: { labels } } },
    status: {},
  };
}

export function daemonSetShape(plan: WorkloadPlan, seed: string, createdAt: number): ApiObject {
  return {
    metadata: {
      name: plan.name,
      namespace: plan.namespace,
      uid: uidOf(`${seed} daemonset ${plan.namespace}/${plan.name}`),
      resourceVersion: '',
      generation: 1,
      creationTimestamp: iso(createdAt),
      labels: { app: plan.name },
    },
    spec: {
      selector: { matchLabels: { app: plan.name } },
      template: podTemplate(plan, plan.image),
      updateStrategy: { type: 'RollingUpdate' },
    },
    status: {},
  };
}

export type PodStart =
  | { readonly is: 'running'; readonly since: number }
  | { readonly is: 'starting' }
  | { readonly is: 'imageMissing'; readonly since: number };

export function podShape(
  plan: WorkloadPlan,
  owner: Owner,
  name: string,
  labels: Record<string, string>,
  image: string,
  node: string,
  createdAt: number,
  start: PodStart,
): ApiObject {
  const template = podTemplate(plan, image);
  return {
    metadata: {
      name,
      namespace: plan.namespace,
      uid: uidOf(`pod ${plan.namespace}/${name} ${createdAt}`),
      resourceVersion: '',
      creationTimestamp: iso(createdAt),
      labels,
      ownerReferences: [ownerReference(owner)],
    },
    spec: { ...template.spec, nodeName: node },
    status: podStatus(plan, image, name, createdAt, start),
  };
}

export function podStatus(
  plan: WorkloadPlan,
  image: string,
  name: string,
  createdAt: number,
  start: PodStart,
  restarts = 0,
  lastState: object = {},
) {
  const running = start.is === 'running';
  const transition = start.is === 'starting' ? createdAt : start.since;
  const condition = (type: string, status: boolean, at: number, message?: string) => ({
    type,
    status: status ? 'True' : 'False',
    lastProbeTime: null,
    lastTransitionTime: iso(at),
    ...(status
      ? {}
      : { reason: 'ContainersNotReady', message: message ?? `containers with unready status: [${plan.name}]` }),
  });
  const waiting =
    start.is === 'imageMissing'
      ? { waiting: { reason: 'ImagePullBackOff', message: `Back-off pulling image "${image}": not found` } }
      : { waiting: { reason: 'ContainerCreating' } };
  const status = (container: string, picture: string, state: object, ready: boolean, count: number, last: object) => ({
    name: container,
    state,
    lastState: last,
    ready,
    restartCount: count,
    image: picture,
    imageID: '',
    started: ready,
  });
  const up = running ? { running: { startedAt: iso(start.since) } } : waiting;
  const first = createdAt + 2000;
  const initStatuses = [
    ...(plan.startUp
      ? [
          status(
            START_UP.name,
            START_UP.image,
            running
              ? {
                  terminated: {
                    exitCode: 0,
                    reason: 'Completed',
                    startedAt: iso(createdAt + 1000),
                    finishedAt: iso(first),
                  },
                }
              : waiting,
            running,
            0,
            {},
          ),
        ]
      : []),
    ...(plan.helper
      ? [status(HELPER.name, HELPER.image, running ? { running: { startedAt: iso(first) } } : waiting, running, 0, {})]
      : []),
  ];
  return {
    phase: running ? 'Running' : 'Pending',
    conditions: [
      condition('PodScheduled', true, createdAt),
      condition('Initialized', true, first),
      condition('ContainersReady', running, transition),
      condition('Ready', running, transition),
    ],
    hostIP: '127.0.0.1',
    podIP: `10.20.${hashOf(name) % 250}.${hashOf(`${name} ip`) % 250}`,
    startTime: iso(createdAt),
    containerStatuses: [status(plan.name, image, up, running, restarts, lastState)],
    ...(initStatuses.length > 0 ? { initContainerStatuses: initStatuses } : {}),
    qosClass: 'Burstable',
  };
}

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

export const isReady = (pod: ApiObject): boolean =>
  pod['status'].conditions.some(
    (condition: { type: string; status: string }) => condition.type === 'Ready' && condition.status === 'True',
  );
