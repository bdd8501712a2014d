/**
 * Metric and label names under which the built-in measures look for their vitals: the open telemetry semantic
 * conventions, written the OpenMetrics way (dots become underscores, unit and `_total` appended).
 */
export const VITAL_METRICS = {
  'container.cpu.time': 'container_cpu_time_seconds_total',
  'container.cpu.throttled': 'container_cpu_throttled_time_seconds_total',
  'container.memory.working_set': 'container_memory_working_set_bytes',
  'container.filesystem.usage': 'container_filesystem_usage_bytes',
  'pod.network.io': 'k8s_pod_network_io_bytes_total',
  'volume.usage': 'k8s_volume_usage_bytes',
  'volume.capacity': 'k8s_volume_capacity_bytes',
  'node.network.io': 'k8s_node_network_io_bytes_total',
  'node.network.errors': 'k8s_node_network_errors_total',
  'node.device.errors': 'hw_errors_total',
  'node.filesystem.usage': 'k8s_node_filesystem_usage_bytes',
  'node.filesystem.capacity': 'k8s_node_filesystem_capacity_bytes',
  'node.cpu.time': 'k8s_node_cpu_time_seconds_total',
  'node.memory.working_set': 'k8s_node_memory_working_set_bytes',
  'node.uptime': 'k8s_node_uptime_seconds',
  'node.inodes.used': 'k8s_node_filesystem_inode_used',
  'node.inodes.count': 'k8s_node_filesystem_inode_count',
  'volume.inodes.used': 'k8s_volume_inode_used',
  'volume.inodes.count': 'k8s_volume_inode_count',
} as const;

export const VITAL_LABELS = {
  namespace: 'k8s_namespace_name',
  podUid: 'k8s_pod_uid',
  container: 'k8s_container_name',
  node: 'k8s_node_name',
  claim: 'k8s_persistentvolumeclaim_name',
  direction: 'network_io_direction',
} as const;

/** A machine outside clusters, by the same conventions. */
export const HOST_METRICS = {
  cpuTime: 'system_cpu_time_seconds_total',
  cpuCount: 'system_cpu_logical_count',
  memory: 'system_memory_usage_bytes',
  memoryLimit: 'system_memory_limit_bytes',
  network: 'system_network_io_bytes_total',
  files: 'system_filesystem_usage_bytes',
  fileLimit: 'system_filesystem_limit_bytes',
} as const;
export const HOST_LABELS = {
  host: 'host_name',
  cpuMode: 'cpu_mode',
  cpuNumber: 'cpu_logical_number',
  memoryState: 'system_memory_state',
  fileState: 'system_filesystem_state',
  mount: 'system_filesystem_mountpoint',
  direction: 'network_io_direction',
} as const;
