/** Identifiers that the cluster API's wire format and the telemetry conventions force on the stand-in. */
export const ZONE_LABEL = 'topology.kubernetes.io/zone';
export const NODE_CLASS_LABEL = 'node.kubernetes.io/instance-type';
export const HOST_LABEL = 'kubernetes.io/hostname';
export const NAMESPACE_LABEL = 'kubernetes.io/metadata.name';
export const NODE_ENDPOINT_FIELD = 'kubeletEndpoint';
export const REVISION_ANNOTATION = 'deployment.kubernetes.io/revision';
export const NODE_AGENT = 'kubelet';
export const SERVICE_LABEL = 'kubernetes.io/service-name';
export const API_GROUPS = {
  apps: 'apps',
  batch: 'batch',
  discovery: 'discovery.k8s.io',
  autoscaling: 'autoscaling',
  policy: 'policy',
} as const;
/** What a client names that wants metadata only. */
export const METADATA_KIND = 'PartialObjectMetadata';
export const METADATA_VERSION = 'meta.k8s.io/v1';
export const ACCESS_GROUP = 'authorization.k8s.io';

export const METRICS = {
  wireBytes: 'connection_bytes',
  wireConnections: 'connections_open',
  containerCpu: 'container_cpu_time_seconds',
  containerThrottled: 'container_cpu_throttled_time_seconds',
  containerMemory: 'container_memory_working_set_bytes',
  containerFiles: 'container_filesystem_usage_bytes',
  podNetwork: 'k8s_pod_network_io_bytes',
  volumeUsed: 'k8s_volume_usage_bytes',
  volumeSize: 'k8s_volume_capacity_bytes',
  nodeNetwork: 'k8s_node_network_io_bytes',
  nodeNetworkErrors: 'k8s_node_network_errors',
  deviceErrors: 'hw_errors',
  nodeFiles: 'k8s_node_filesystem_usage_bytes',
  nodeFilesSize: 'k8s_node_filesystem_capacity_bytes',
  nodeCpu: 'k8s_node_cpu_time_seconds',
  nodeMemory: 'k8s_node_memory_working_set_bytes',
  nodeUptime: 'k8s_node_uptime_seconds',
  nodeEntriesUsed: 'k8s_node_filesystem_inode_used',
  nodeEntries: 'k8s_node_filesystem_inode_count',
  volumeEntriesUsed: 'k8s_volume_inode_used',
  volumeEntries: 'k8s_volume_inode_count',
  processCpu: 'process_cpu_time_seconds',
  processMemory: 'process_memory_usage_bytes',
  processThreads: 'process_thread_count',
  processFiles: 'process_open_file_descriptor_count',
  httpDuration: 'http_server_request_duration_seconds',
} as const;

export const LABELS = {
  wireFrom: 'source_address',
  wireTo: 'destination_address',
  wirePort: 'destination_port',
  namespace: 'k8s_namespace_name',
  pod: 'k8s_pod_name',
  podUid: 'k8s_pod_uid',
  container: 'k8s_container_name',
  node: 'k8s_node_name',
  volume: 'k8s_volume_name',
  claim: 'k8s_persistentvolumeclaim_name',
  direction: 'network_io_direction',
  deviceType: 'hw_type',
  deviceId: 'hw_id',
  processPid: 'process_pid',
  processName: 'process_executable_name',
  httpMethod: 'http_request_method',
  httpRoute: 'http_route',
  httpStatus: 'http_response_status_code',
  errorType: 'error_type',
} as const;

/** Attributes of what sends log lines, by the telemetry conventions. */
export const RESOURCE = {
  namespace: 'k8s.namespace.name',
  pod: 'k8s.pod.name',
  podUid: 'k8s.pod.uid',
  container: 'k8s.container.name',
  service: 'service.name',
} as const;
/** Attributes of spans, by the telemetry conventions. */
export const SPAN = {
  peer: 'server.address',
  resent: 'http.request.resend_count',
  queue: 'messaging.destination.name',
  cold: 'faas.coldstart',
  error: 'error.type',
} as const;
