/** Labels by which a series is tied to the objects it speaks of: the open telemetry semantic conventions. */
export const OBJECT_LABELS = {
  namespace: 'k8s_namespace_name',
  pod: 'k8s_pod_name',
  podUid: 'k8s_pod_uid',
  container: 'k8s_container_name',
  node: 'k8s_node_name',
  service: 'service_name',
  host: 'host_name',
} as const;
