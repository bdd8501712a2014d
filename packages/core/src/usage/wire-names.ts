/**
 * Metric and label names under which the built-in measures look for their vitals: the open telemetry semantic
 * conventions, written the OpenMetrics way (dots become underscores, unit and `_total` appended).
 */
export const VITALS = {
  'container.cpu.time': 'container_cpu_time_seconds_total',
  'container.cpu.throttled': 'container_cpu_throttled_time_seconds_total',
  'container.memory.working_set': 'container_memory_working_set_bytes',
  'node.cpu.time': 'k8s_node_cpu_time_seconds_total',
  'node.memory.working_set': 'k8s_node_memory_working_set_bytes',
} as const;

export const VITAL_LABELS = {
  podUid: 'k8s_pod_uid',
  container: 'k8s_container_name',
  node: 'k8s_node_name',
} as const;
