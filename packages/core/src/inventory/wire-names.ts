/** Identifiers that the cluster API's wire format forces on us. */
export const ZONE_LABEL = 'topology.kubernetes.io/zone';
export const NODE_CLASS_LABEL = 'node.kubernetes.io/instance-type';
export const NODE_ENDPOINT_FIELD = 'kubeletEndpoint';
export const SERVICE_LABEL = 'kubernetes.io/service-name';
export const REVISION_ANNOTATION = 'deployment.kubernetes.io/revision';

/** Reasons a container gives while it waits or after it ended. */
export const IMAGE_REASONS: ReadonlySet<string> = new Set([
  'ErrImagePull',
  'ImagePullBackOff',
  'InvalidImageName',
  'ErrImageNeverPull',
  'ErrRegistryUnavailable',
  'ImageInspectError',
]);
export const RESTART_WAIT_REASON = 'CrashLoopBackOff';
export const CONFIG_REASONS: ReadonlySet<string> = new Set([
  'CreateContainerConfigError',
  'CreateContainerError',
  'RunContainerError',
]);
export const OUT_OF_MEMORY_REASON = 'OOMKilled';
export const ROLLOUT_LATE_REASON = 'ProgressDeadlineExceeded';
export const EVICTED_REASON = 'Evicted';

/** Labels by which the programs that look up names inside a cluster are known. */
export const NAME_SERVICE_LABELS = [
  ['k8s-app', 'kube-dns'],
  ['app.kubernetes.io/name', 'coredns'],
] as const;

/** What the cluster API calls a kind. */
export const WIRE_KINDS = {
  node: 'Node',
  namespace: 'Namespace',
  deployment: 'Deployment',
  'replica set': 'ReplicaSet',
  'stateful set': 'StatefulSet',
  'daemon set': 'DaemonSet',
  job: 'Job',
  'cron job': 'CronJob',
  pod: 'Pod',
  service: 'Service',
  'endpoint slice': 'EndpointSlice',
  'persistent volume': 'PersistentVolume',
  'volume claim': 'PersistentVolumeClaim',
  quota: 'ResourceQuota',
  'limit range': 'LimitRange',
  autoscaler: 'HorizontalPodAutoscaler',
  'disruption budget': 'PodDisruptionBudget',
  'config map': 'ConfigMap',
  secret: 'Secret',
} as const;

/** Reasons of events that tell why a pod does not begin, run or go on. */
export const EVENT_REASONS = {
  killed: 'Killing',
  checkFailed: 'Unhealthy',
  mountFailed: ['FailedMount', 'FailedMapVolume'],
  attachFailed: ['FailedAttachVolume'],
  sandboxFailed: ['FailedCreatePodSandBox', 'NetworkNotReady', 'FailedPodSandBoxStatus'],
  pullFailed: ['Failed', 'InspectFailed', 'ErrImageNeverPull'],
  waitsToRestart: ['BackOff'],
  createFailed: ['FailedCreate'],
  notPlaced: ['FailedScheduling'],
  preempted: 'Preempted',
  provisioningFailed: ['ProvisioningFailed', 'FailedBinding'],
  waitsForFirst: 'WaitForFirstConsumer',
  figureNotRead: [
    'FailedGetResourceMetric',
    'FailedComputeMetricsReplicas',
    'FailedGetExternalMetric',
    'FailedGetObjectMetric',
  ],
} as const;
/** What a container says while it is being made ready: nothing is wrong yet. */
export const BEGINNING_REASONS: ReadonlySet<string> = new Set(['', 'ContainerCreating', 'PodInitializing']);
