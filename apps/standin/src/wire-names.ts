/** Identifiers that the cluster API's wire format and the telemetry conventions force on the stand-in. */
export const ZONE_LABEL = 'topology.kubernetes.io/zone';
export const NODE_CLASS_LABEL = 'node.kubernetes.io/instance-type';
export const HOST_LABEL = 'kubernetes.io/hostname';
export const NAMESPACE_LABEL = 'kubernetes.io/metadata.name';
export const NODE_ENDPOINT_FIELD = 'kubeletEndpoint';
export const REVISION_ANNOTATION = 'deployment.kubernetes.io/revision';
export const NODE_AGENT = 'kubelet';
export const ACCESS_GROUP = 'authorization.k8s.io';

export const METRICS = {
  containerCpu: 'container_cpu_time_seconds',
  containerThrottled: 'container_cpu_throttled_time_seconds',
  containerMemory: 'container_memory_working_set_bytes',
  nodeCpu: 'k8s_node_cpu_time_seconds',
  nodeMemory: 'k8s_node_memory_working_set_bytes',
} as const;

export const LABELS = {
  namespace: 'k8s_namespace_name',
  pod: 'k8s_pod_name',
  podUid: 'k8s_pod_uid',
  container: 'k8s_container_name',
  node: 'k8s_node_name',
} as const;
