/** Processes of a machine or in a pod, by the same conventions. */
export const PROCESS_METRICS = {
  cpu: 'process_cpu_time_seconds_total',
  memory: 'process_memory_usage_bytes',
  threads: 'process_thread_count',
  files: 'process_open_file_descriptor_count',
} as const;
export const PROCESS_LABELS = { name: 'process_executable_name', pid: 'process_pid' } as const;

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
/** In these a processor does no work. */
export const IDLE_MODES: ReadonlySet<string> = new Set(['idle', 'iowait']);
/** What the kernel gives back when it is asked for. */
export const USED_STATE = 'used';
