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
