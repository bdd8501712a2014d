import type { Samples } from '../samples/index.ts';
import type { DurationMs } from '../units/index.ts';
import { flowOnGrid, levelOnGrid } from './flows.ts';
import type { Grid } from './grid.ts';
import { finish, type UsageLines, type UsageNode } from './usageNode.ts';
import { IDLE_MODES, USED_STATE } from './wire-names.ts';

/** What is read of a machine outside clusters. */
export interface HostSamples {
  /** CPU time, per mode and, where the page tells them apart, per processor. */
  readonly cpu: readonly { readonly mode: string; readonly processor: string; readonly samples: Samples }[];
  readonly cpuCount: readonly Samples[];
  readonly memory: readonly { readonly state: string; readonly samples: Samples }[];
  readonly memoryLimit: readonly Samples[];
}

/**
 * Use of a machine against its size. CPU: cores, time in modes that do work; its size is the count it gives, else the
 * number of processors it tells apart, else the time in all modes. Memory: what is used; its size is the limit it gives,
 * else the sum of all states.
 */
export function hostUsage({
  name,
  grid,
  interval,
  host,
}: {
  readonly name: string;
  readonly grid: Grid;
  readonly interval: DurationMs;
  readonly host: HostSamples;
}): UsageNode {
  const cpuUse = flowOnGrid(
    host.cpu.filter(({ mode }) => !IDLE_MODES.has(mode)).map(({ samples }) => samples),
    grid,
    interval,
  );
  const processors = new Set(host.cpu.map(({ processor }) => processor).filter((processor) => processor !== ''));
  const cpuSize =
    host.cpuCount.length > 0
      ? levelOnGrid(host.cpuCount, grid, interval)
      : processors.size > 0
        ? cpuUse.map((use) => (Number.isNaN(use) ? Number.NaN : processors.size))
        : host.cpu.some(({ mode }) => IDLE_MODES.has(mode))
          ? flowOnGrid(
              host.cpu.map(({ samples }) => samples),
              grid,
              interval,
            )
          : new Float64Array(grid.count).fill(Number.NaN);
  const states = host.memory.some(({ state }) => state === USED_STATE)
    ? host.memory.filter(({ state }) => state === USED_STATE)
    : host.memory;
  const memoryUse = levelOnGrid(
    states.map(({ samples }) => samples),
    grid,
    interval,
  );
  const memorySize =
    host.memoryLimit.length > 0
      ? levelOnGrid(host.memoryLimit, grid, interval)
      : states.length < host.memory.length
        ? levelOnGrid(
            host.memory.map(({ samples }) => samples),
            grid,
            interval,
          )
        : new Float64Array(grid.count).fill(Number.NaN);
  const lines = (use: Float64Array, limit: Float64Array): UsageLines => ({
    use,
    read: use,
    unread: new Uint8Array(grid.count),
    request: new Float64Array(grid.count).fill(Number.NaN),
    limit,
  });
  return finish({
    level: 'host',
    identity: { name, uid: null },
    draft: {
      lines: { cpu: lines(cpuUse, cpuSize), memory: lines(memoryUse, memorySize) },
      limitIs: 'size',
      unlimited: { cpu: null, memory: null },
      throttled: null,
    },
    children: [],
    present: true,
    pods: 0,
  });
}
