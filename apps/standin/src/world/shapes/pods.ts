import { hashOf, uidOf } from '../chance.ts';
import { type ApiObject, iso } from '../objects.ts';
import { REGISTRY, type WorkloadPlan } from '../scenario/index.ts';

/** Builds pods in their usual JSON shape. Pure: the world decides when and which. */

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

/** Pods of this plan; every pod of a stateful set gets its own volume in place of `volumes`. */
export function podTemplate(plan: WorkloadPlan, image: string, volumes: object[] = []) {
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
            args: ['--listen=:8443', '--upstream=http://127.0.0.1:8080'],
            restartPolicy: 'Always',
            resources: { requests: { cpu: '50m', memory: '48Mi' }, limits: { cpu: '100m', memory: '96Mi' } },
          },
        ]
      : []),
  ];
  return {
    metadata: {
      labels: { app: plan.name },
      ...(plan.serves === undefined ? {} : { annotations: { 'zetopsis/serves': plan.serves } }),
    },
    spec: {
      containers: [
        {
          name: plan.name,
          image,
          ports: [
            { containerPort: 8080, protocol: 'TCP', name: 'http' },
            ...(plan.serves?.startsWith('9102') ? [{ containerPort: 9102, protocol: 'TCP', name: 'pages' }] : []),
          ],
          resources: resources(plan),
          imagePullPolicy: 'IfNotPresent',
          ...(plan.settings ? { envFrom: [{ configMapRef: { name: `${plan.name}-settings` } }] } : {}),
          ...(plan.keys
            ? { env: [{ name: 'KEY', valueFrom: { secretKeyRef: { name: `${plan.name}-keys`, key: 'key' } } }] }
            : {}),
        },
      ],
      ...(volumes.length > 0 ? { volumes } : {}),
      ...(initContainers.length > 0 ? { initContainers } : {}),
      restartPolicy: plan.kind === 'cronjob' ? 'Never' : 'Always',
      terminationGracePeriodSeconds: 30,
    },
  };
}

export interface Owner {
  readonly kind: 'Deployment' | 'ReplicaSet' | 'DaemonSet' | 'StatefulSet' | 'Job' | 'CronJob';
  readonly name: string;
  readonly uid: string;
}
export const ownerReference = (owner: Owner) => ({
  apiVersion: owner.kind === 'Job' || owner.kind === 'CronJob' ? 'batch/v1' : 'apps/v1',
  kind: owner.kind,
  name: owner.name,
  uid: owner.uid,
  controller: true,
  blockOwnerDeletion: true,
});

export type PodStart =
  | { readonly is: 'running'; readonly since: number }
  | { readonly is: 'starting' }
  | { readonly is: 'imageMissing'; readonly since: number };

export interface PodParts {
  readonly plan: WorkloadPlan;
  readonly owner: Owner;
  readonly name: string;
  readonly labels: Record<string, string>;
  readonly image: string;
  readonly node: string;
  readonly createdAt: number;
  readonly start: PodStart;
  readonly seed: string;
  /** Claims of its volumes. */
  readonly claims?: readonly string[];
}
export function podShape({
  plan,
  owner,
  name,
  labels,
  image,
  node,
  createdAt,
  start,
  seed,
  claims = [],
}: PodParts): ApiObject {
  const template = podTemplate(
    plan,
    image,
    claims.map((claimName) => ({ name: 'data', persistentVolumeClaim: { claimName } })),
  );
  return {
    metadata: {
      name,
      namespace: plan.namespace,
      uid: uidOf(`${seed} pod ${plan.namespace}/${name} ${createdAt}`),
      resourceVersion: '',
      creationTimestamp: iso(createdAt),
      labels,
      ...(template.metadata.annotations ? { annotations: template.metadata.annotations } : {}),
      ownerReferences: [ownerReference(owner)],
    },
    spec: { ...template.spec, nodeName: node },
    status: podStatus({ plan, image, name, createdAt, start }),
  };
}

export function podStatus({
  plan,
  image,
  name,
  createdAt,
  start,
  restarts = 0,
  lastState = {},
}: {
  readonly plan: WorkloadPlan;
  readonly image: string;
  readonly name: string;
  readonly createdAt: number;
  readonly start: PodStart;
  readonly restarts?: number;
  readonly lastState?: object;
}) {
  const running = start.is === 'running';
  const transition = start.is === 'starting' ? createdAt : start.since;
  const condition = ({
    type,
    status,
    at,
    message,
  }: {
    readonly type: string;
    readonly status: boolean;
    readonly at: number;
    readonly message?: string | undefined;
  }) => ({
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
  const status = ({
    container,
    picture,
    state,
    ready,
    count,
    last,
  }: {
    readonly container: string;
    readonly picture: string;
    readonly state: object;
    readonly ready: boolean;
    readonly count: number;
    readonly last: object;
  }) => ({
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
  // only the container whose image is missing waits; what starts before it, or beside it, has its own
  const begun = running || start.is === 'imageMissing';
  const initStatuses = [
    ...(plan.startUp
      ? [
          status({
            container: START_UP.name,
            picture: START_UP.image,
            state: begun
              ? {
                  terminated: {
                    exitCode: 0,
                    reason: 'Completed',
                    startedAt: iso(createdAt + 1000),
                    finishedAt: iso(first),
                  },
                }
              : waiting,
            ready: begun,
            count: 0,
            last: {},
          }),
        ]
      : []),
    ...(plan.helper
      ? [
          status({
            container: HELPER.name,
            picture: HELPER.image,
            state: begun ? { running: { startedAt: iso(first) } } : waiting,
            ready: begun,
            count: 0,
            last: {},
          }),
        ]
      : []),
  ];
  return {
    phase: running ? 'Running' : 'Pending',
    conditions: [
      condition({ type: 'PodScheduled', status: true, at: createdAt }),
      condition({ type: 'Initialized', status: true, at: first }),
      condition({ type: 'ContainersReady', status: running, at: transition }),
      condition({ type: 'Ready', status: running, at: transition }),
    ],
    hostIP: '127.0.0.1',
    // so many that hardly ever two are the same
    podIP: `10.${20 + (hashOf(`${name} net`) % 200)}.${hashOf(name) % 250}.${hashOf(`${name} ip`) % 250}`,
    startTime: iso(createdAt),
    containerStatuses: [
      status({ container: plan.name, picture: image, state: up, ready: running, count: restarts, last: lastState }),
    ],
    ...(initStatuses.length > 0 ? { initContainerStatuses: initStatuses } : {}),
    qosClass: 'Burstable',
  };
}

export const isReady = (pod: ApiObject): boolean =>
  pod['status'].conditions.some(
    (condition: { type: string; status: string }) => condition.type === 'Ready' && condition.status === 'True',
  );

/** A pod that ran to its end, or was put out. */
export function endedPod(
  pod: ApiObject,
  end: {
    readonly failed: boolean;
    readonly reason?: string;
    readonly message?: string;
    readonly code?: number;
    readonly at: number;
    readonly from: number;
  },
): ApiObject {
  const changed = structuredClone(pod);
  const container = changed['status'].containerStatuses[0];
  Object.assign(container, {
    ready: false,
    started: false,
    state: {
      terminated: {
        exitCode: end.code ?? (end.failed ? 1 : 0),
        reason: end.failed ? 'Error' : 'Completed',
        message: end.message ?? '',
        startedAt: iso(end.from),
        finishedAt: iso(end.at),
      },
    },
  });
  changed['status'].phase = end.failed ? 'Failed' : 'Succeeded';
  if (end.reason) Object.assign(changed['status'], { reason: end.reason, message: end.message ?? '' });
  for (const condition of changed['status'].conditions)
    if (condition.type === 'Ready' || condition.type === 'ContainersReady')
      Object.assign(condition, { status: 'False', reason: 'PodCompleted', lastTransitionTime: iso(end.at) });
  return changed;
}
