/** Processes of a machine or in a pod, by the same conventions. */
export const PROCESS_METRICS = {
  cpu: 'process_cpu_time_seconds_total',
  memory: 'process_memory_usage_bytes',
  threads: 'process_thread_count',
  files: 'process_open_file_descriptor_count',
} as const;
export const PROCESS_LABELS = { name: 'process_executable_name', pid: 'process_pid' } as const;

/** In these a processor does no work. */
export const IDLE_MODES: ReadonlySet<string> = new Set(['idle', 'iowait']);
/** What the kernel gives back when it is asked for. */
export const USED_STATE = 'used';
