import { LABELS, METRICS } from '../wire-names.ts';

/** How a cluster's nodes call what they serve, and in which unit. */
export interface Dialect {
  /** The metric without `_total`, and what a value in our unit is multiplied by. */
  readonly metric: (name: string) => { readonly name: string; readonly factor: number; readonly unit: string } | null;
  /** Null: the label is left out. */
  readonly label: (name: string) => string | null;
}
const OTHER_METRICS: Readonly<Record<string, readonly [name: string, factor: number]>> = {
  [METRICS.containerCpu]: ['box_cpu_usage_nanoseconds', 1e9],
  [METRICS.containerThrottled]: ['box_cpu_throttled_milliseconds', 1e3],
  [METRICS.containerMemory]: ['box_mem_working_kib', 1 / 1024],
  [METRICS.containerFiles]: ['box_disk_used_kib', 1 / 1024],
  [METRICS.podNetwork]: ['group_net_octets', 1],
  [METRICS.volumeUsed]: ['group_volume_used_kib', 1 / 1024],
  [METRICS.volumeSize]: ['group_volume_capacity_kib', 1 / 1024],
  [METRICS.nodeNetwork]: ['machine_net_octets', 1],
  [METRICS.nodeNetworkErrors]: ['machine_net_errors', 1],
  [METRICS.deviceErrors]: ['machine_disk_errors', 1],
  [METRICS.nodeFiles]: ['machine_disk_used_kib', 1 / 1024],
  [METRICS.nodeFilesSize]: ['machine_disk_capacity_kib', 1 / 1024],
  [METRICS.nodeCpu]: ['machine_cpu_usage_nanoseconds', 1e9],
  [METRICS.nodeMemory]: ['machine_mem_working_kib', 1 / 1024],
  [METRICS.nodeUptime]: ['machine_running_for_milliseconds', 1e3],
  [METRICS.nodeEntriesUsed]: ['machine_disk_inodes_used', 1],
  [METRICS.nodeEntries]: ['machine_disk_inodes_max', 1],
  [METRICS.volumeEntriesUsed]: ['group_volume_inodes_used', 1],
  [METRICS.volumeEntries]: ['group_volume_inodes_max', 1],
};
const OTHER_LABELS: Readonly<Record<string, string | null>> = {
  [LABELS.namespace]: 'space',
  [LABELS.pod]: 'box_group',
  [LABELS.podUid]: null,
  [LABELS.container]: 'box',
  [LABELS.node]: 'machine',
  [LABELS.claim]: 'claim',
  [LABELS.direction]: 'way',
};

/** Other names, other labels, other units, and no uid of any pod. */
export const OTHER: Dialect = {
  metric: (name) => {
    const [other, factor] = OTHER_METRICS[name] ?? [null, 1];
    return other === null ? null : { name: other, factor, unit: '' };
  },
  label: (name) => (name in OTHER_LABELS ? (OTHER_LABELS[name] ?? null) : name),
};
