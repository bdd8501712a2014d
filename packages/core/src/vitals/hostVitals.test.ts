import { describe, expect, it } from 'vitest';
import { HOST_VITAL_NAMES, isHostVital, ownHostMapping, proposeHostVitals, type ServedMetric } from './index.ts';

const metric = (name: string, labels: Record<string, string[]> = {}): ServedMetric => ({
  name,
  cumulative: name.endsWith('_total'),
  series: 2,
  labels: new Map(Object.entries(labels).map(([label, values]) => [label, new Set(values)])),
});
const proposed = (...served: ServedMetric[]) =>
  Object.fromEntries(proposeHostVitals(served).map(({ vital, mapping }) => [vital, mapping]));

describe('what machines outside clusters call their own', () => {
  it('is proposed for every vital, by words, by counting, by labels of known values', () => {
    const all = proposed(
      metric('box_processor_busy_milliseconds_total', { core: ['0', '1'], does: ['user', 'idle'] }),
      metric('box_processor_count'),
      metric('box_mem_used_kib'),
      metric('box_mem_total_kib'),
      metric('box_net_rx_bytes_total'),
      metric('box_net_tx_bytes_total'),
      metric('box_net_rx_errors_total'),
      metric('box_disk_used_kib', { at: ['/', '/srv'], device: ['a', 'b'] }),
      metric('box_disk_size_kib', { at: ['/', '/srv'] }),
      metric('process_cpu_seconds_total'),
    );
    expect(Object.keys(all).sort()).toEqual([...HOST_VITAL_NAMES].sort());
    expect(all['host.cpu.time']).toEqual({
      metric: 'box_processor_busy_milliseconds_total',
      labels: { mode: 'does', processor: 'core' },
      where: {},
      factor: 1e-3,
    });
    expect(all['host.memory.limit']).toMatchObject({ metric: 'box_mem_total_kib', factor: 1024 });
    expect(all['host.network.received']?.metric).toBe('box_net_rx_bytes_total');
    expect(all['host.network.sent']?.metric).toBe('box_net_tx_bytes_total');
    expect(all['host.filesystem.usage']?.labels).toEqual({ mount: 'at' });
  });
  it('is not proposed where our own name is served, nor of what only sounds like it', () => {
    const served = HOST_VITAL_NAMES.map((vital) => metric(ownHostMapping(vital).metric));
    expect(proposeHostVitals([...served, metric('box_mem_used_kib')])).toEqual([]);
    expect(proposeHostVitals([metric('memory_limit_reached_total'), metric('net_errors_total')])).toEqual([]);
  });
  it('has names that no vital of a cluster has', () => {
    expect(HOST_VITAL_NAMES.every(isHostVital)).toBe(true);
    expect(['node.cpu.time', 'constructor', '__proto__'].some(isHostVital)).toBe(false);
  });
});
