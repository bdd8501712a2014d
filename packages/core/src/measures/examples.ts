/** A question to begin with: as the guide has it, and the place Measures before anything is asked. */
export interface MeasureExample {
  readonly title: string;
  readonly text: string;
  /** How far back it looks, as the tape names it. */
  readonly window: string;
  /** How it is drawn; null: as suits it. */
  readonly drawn: string | null;
}

export const EXAMPLES: readonly MeasureExample[] = [
  {
    title: 'how full are the archive’s volumes',
    window: '1d',
    drawn: null,
    text: `used = read vital volume.usage
  where k8s_namespace_name is "pier-data"
size = read vital volume.capacity
  where k8s_namespace_name is "pier-data"
show used / size as percent
`,
  },
  {
    title: 'when are they full',
    window: '3h',
    drawn: 'bars',
    text: `read vital volume.usage
  where k8s_persistentvolumeclaim_name contains "archive"
  time until 200GiB from 1d
  called "{k8s_persistentvolumeclaim_name}"
`,
  },
  {
    title: 'share of failed answers per workload, against yesterday',
    window: '6h',
    drawn: null,
    text: `failed = read http_server_request_duration_seconds_count
  where error_type is present
  treat as counter
  per second over 5m
  add labels workload
  total for each cluster, workload
  missing counts 0
all = read http_server_request_duration_seconds_count
  treat as counter
  per second over 5m
  add labels workload
  total for each cluster, workload
show failed / all as percent
`,
  },
  {
    title: 'builds in 24 h: 2 of a counter at some forty',
    window: '3h',
    drawn: 'figures',
    text: `read tariff_builds_total
  growth over 24h
`,
  },
  {
    title: 'how long answers take, with examples',
    window: '3h',
    drawn: 'bands',
    text: `read app_request_duration_seconds
  per second over 5m
  total overall
`,
  },
  {
    title: 'cores of each team',
    window: '12h',
    drawn: 'areas',
    text: `read vital container.cpu.time
  add labels team
  per second over 5m
  total for each team
`,
  },
  {
    title: 'how much of its memory limit each workload of Tides uses',
    window: '12h',
    drawn: null,
    text: `used = read vital container.memory.working_set
  where k8s_namespace_name is "tides"
  add labels workload
  total for each cluster, workload
limit = read vital container.memory.limit
  where k8s_namespace_name is "tides"
  add labels workload
  total for each cluster, workload
show used / limit as percent
`,
  },
  {
    title: 'who waits for CPU: time throttled, the worst ten',
    window: '3h',
    drawn: 'heat',
    text: `read vital container.cpu.throttled
  add labels workload
  per second over 5m
  total for each cluster, workload
  top 10
`,
  },
  {
    title: 'restarts in 24 h',
    window: '1d',
    drawn: 'bars',
    text: `read vital container.restarts
  treat as counter
  growth over 24h
  add labels workload
  total for each cluster, k8s_namespace_name, workload
  keep above 0
`,
  },
  {
    title: 'what the front’s CPU is at this hour on such days',
    window: '1d',
    drawn: null,
    text: `read vital container.cpu.time
  where cluster is "seaward" and k8s_namespace_name is "ticketing"
  per second over 15m
  total overall
  usual from 14d
`,
  },
];
