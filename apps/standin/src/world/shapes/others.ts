import { SERVICE_LABEL } from '../../wire-names.ts';
import { hashOf, uidOf } from '../chance.ts';
import { type ApiObject, iso, managed } from '../objects.ts';
import type { ClusterPlan, WorkloadPlan } from '../scenario/index.ts';
import { isReady } from './pods.ts';

/** Objects beside workloads and pods, in their usual JSON shape. */

export interface Place {
  readonly namespace?: string;
  readonly name: string;
  readonly seed: string;
  readonly createdAt: number;
}
const meta = (kind: string, { namespace, name, seed, createdAt }: Place, more: object = {}): ApiObject['metadata'] => ({
  name,
  ...(namespace === undefined ? {} : { namespace }),
  uid: uidOf(`${seed} ${kind} ${namespace ?? ''}/${name}`),
  resourceVersion: '',
  creationTimestamp: iso(createdAt),
  ...more,
});

export const serviceShape = (plan: WorkloadPlan, place: Place): ApiObject => ({
  metadata: meta('service', place, { labels: { app: plan.name } }),
  spec: {
    type: 'ClusterIP',
    clusterIP:
      plan.kind === 'statefulset' ? 'None' : `10.96.${hashOf(plan.name) % 250}.${hashOf(plan.namespace) % 250}`,
    selector: { app: plan.name },
    ports: [{ name: 'http', port: 80, targetPort: 8080, protocol: 'TCP' }],
  },
  status: { loadBalancer: {} },
});

export const sliceShape = (service: ApiObject, pods: readonly ApiObject[], seed: string): ApiObject => ({
  metadata: meta(
    'slice',
    {
      namespace: service.metadata.namespace ?? '',
      name: `${service.metadata.name}-1`,
      seed,
      createdAt: Date.parse(service.metadata.creationTimestamp),
    },
    { labels: { [SERVICE_LABEL]: service.metadata.name } },
  ),
  addressType: 'IPv4',
  ports: [{ name: 'http', port: 8080, protocol: 'TCP' }],
  endpoints: pods
    .filter((pod) => !['Succeeded', 'Failed'].includes(pod['status'].phase))
    .map((pod) => ({
      addresses: [pod['status'].podIP],
      conditions: { ready: isReady(pod), serving: isReady(pod), terminating: false },
      targetRef: { kind: 'Pod', name: pod.metadata.name, namespace: pod.metadata.namespace, uid: pod.metadata.uid },
      nodeName: pod['spec'].nodeName,
    })),
});

export const volumeShape = (claim: ApiObject, seed: string): ApiObject => {
  const createdAt = Date.parse(claim.metadata.creationTimestamp);
  return {
    metadata: meta('volume', { name: claim['spec'].volumeName, seed, createdAt }),
    spec: {
      capacity: claim['status'].capacity,
      accessModes: ['ReadWriteOnce'],
      persistentVolumeReclaimPolicy: 'Delete',
      storageClassName: 'quay-disk',
      claimRef: {
        kind: 'PersistentVolumeClaim',
        namespace: claim.metadata.namespace,
        name: claim.metadata.name,
        uid: claim.metadata.uid,
      },
    },
    status: { phase: 'Bound' },
  };
};
export const claimShape = (size: string, place: Place): ApiObject => {
  const metadata = meta('claim', place);
  return {
    metadata,
    spec: {
      accessModes: ['ReadWriteOnce'],
      resources: { requests: { storage: size } },
      storageClassName: 'quay-disk',
      volumeName: `vol-${metadata.uid.slice(0, 13)}`,
    },
    status: { phase: 'Bound', accessModes: ['ReadWriteOnce'], capacity: { storage: size } },
  };
};

export const quotaShape = (hard: Readonly<Record<string, string>>, place: Place): ApiObject => ({
  metadata: meta('quota', place, { managedFields: [managed('maren', place.createdAt)] }),
  spec: { hard },
  status: { hard, used: {} },
});
export const limitRangeShape = (place: Place): ApiObject => ({
  metadata: meta('limitrange', place),
  spec: {
    limits: [
      {
        type: 'Container',
        max: { cpu: '4', memory: '8Gi' },
        default: { cpu: '500m', memory: '512Mi' },
        defaultRequest: { cpu: '100m', memory: '128Mi' },
      },
    ],
  },
});

export const scalerShape = (
  plan: ClusterPlan['scalers'][number],
  place: Place,
  { replicas, limitedSince }: { readonly replicas: number; readonly limitedSince: number },
): ApiObject => ({
  metadata: meta('scaler', place),
  spec: {
    scaleTargetRef: { apiVersion: 'apps/v1', kind: 'Deployment', name: plan.name },
    minReplicas: plan.least,
    maxReplicas: plan.most,
    metrics: [
      { type: 'Resource', resource: { name: 'cpu', target: { type: 'Utilization', averageUtilization: plan.share } } },
    ],
  },
  status: {
    currentReplicas: replicas,
    desiredReplicas: replicas,
    conditions: [
      {
        type: 'ScalingLimited',
        status: plan.limited ? 'True' : 'False',
        reason: plan.limited ? 'TooManyReplicas' : 'DesiredWithinRange',
        message: plan.limited ? 'the desired replica count is more than the maximum replica count' : '',
        lastTransitionTime: iso(plan.limited ? limitedSince : place.createdAt),
      },
    ],
  },
});

export const budgetShape = (plan: ClusterPlan['budgets'][number], place: Place, replicas: number): ApiObject => {
  const wanted =
    typeof plan.leastAvailable === 'number'
      ? plan.leastAvailable
      : Math.ceil((Number.parseInt(plan.leastAvailable, 10) / 100) * replicas);
  return {
    metadata: meta('budget', place),
    spec: { minAvailable: plan.leastAvailable, selector: { matchLabels: { app: plan.name } } },
    status: {
      currentHealthy: replicas,
      desiredHealthy: wanted,
      disruptionsAllowed: Math.max(0, replicas - wanted),
      expectedPods: replicas,
      observedGeneration: 1,
    },
  };
};

export const settingsShape = (place: Place, changedAt: number, who: string): ApiObject => ({
  metadata: meta('configmap', place, { managedFields: [managed(who, changedAt)] }),
  data: { 'log-level': 'info', 'pool-size': '24', 'checks.yaml': 'strict: true\nretries: 3\n' },
});
export const keysShape = (place: Place): ApiObject => ({
  metadata: meta('secret', place, { managedFields: [managed('key-keeper', place.createdAt)] }),
  type: 'Opaque',
  data: { key: Buffer.from(`not-a-real-key-${place.name}`).toString('base64') },
});
