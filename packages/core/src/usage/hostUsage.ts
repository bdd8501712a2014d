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
  const own: OnGrid = {
    flow: (series) => flowOnGrid(samplesOf(series), grid, interval),
    level: (series) => levelOnGrid(samplesOf(series), grid, interval),
    unknown: () => new Float64Array(grid.count).fill(Number.NaN),
  };
  const cpu = cpuOf(host, own);
  const memory = memoryOf(host, own);
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
      lines: { cpu: lines(cpu.use, cpu.size), memory: lines(memory.use, memory.size) },
      limitIs: 'size',
      unlimited: { cpu: null, memory: null },
      throttled: null,
    },
    children: [],
    present: true,
    pods: 0,
  });
}

interface Line {
  readonly samples: Samples;
}
const samplesOf = (series: readonly Line[]) => series.map(({ samples }) => samples);
/** Series put together as a line on the grid that is asked for. */
interface OnGrid {
  readonly flow: (series: readonly Line[]) => Float64Array;
  readonly level: (series: readonly Line[]) => Float64Array;
  readonly unknown: () => Float64Array;
}
interface UseAndSize {
  readonly use: Float64Array;
  readonly size: Float64Array;
}
function cpuOf({ cpu, cpuCount }: HostSamples, { flow, level, unknown }: OnGrid): UseAndSize {
  const use = flow(cpu.filter(({ mode }) => !IDLE_MODES.has(mode)));
  if (cpuCount.length > 0) return { use, size: level(cpuCount.map((samples) => ({ samples }))) };
  const processors = new Set(cpu.map(({ processor }) => processor).filter((processor) => processor !== ''));
  if (processors.size > 0) return { use, size: use.map((own) => (Number.isNaN(own) ? Number.NaN : processors.size)) };
  return { use, size: cpu.some(({ mode }) => IDLE_MODES.has(mode)) ? flow(cpu) : unknown() };
}
function memoryOf({ memory, memoryLimit }: HostSamples, { level, unknown }: OnGrid): UseAndSize {
  const used = memory.filter(({ state }) => state === USED_STATE);
  const states = used.length > 0 ? used : memory;
  const use = level(states);
  if (memoryLimit.length > 0) return { use, size: level(memoryLimit.map((samples) => ({ samples }))) };
  return { use, size: states.length < memory.length ? level(memory) : unknown() };
}
