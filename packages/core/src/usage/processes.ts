import type { Samples } from '../samples/index.ts';
import type { DurationMs } from '../units/index.ts';
import { flowOnGrid, levelOnGrid } from './flows.ts';
import { type Grid, gridEnd } from './grid.ts';
import { orNull } from './usageNode.ts';

/** A process at a window's end. */
export interface ProcessUsage {
  readonly name: string;
  readonly pid: string;
  /** Of several pods or containers: whose it is. */
  readonly of: string;
  /** Cores. */
  readonly cpu: number | null;
  /** Bytes. */
  readonly memory: number | null;
  readonly threads: number | null;
  readonly files: number | null;
}
type Measured = 'cpu' | 'memory' | 'threads' | 'files';
/** One series of a process. */
export interface ProcessSeries {
  readonly what: Measured;
  readonly name: string;
  readonly pid: string;
  readonly of: string;
  readonly samples: Samples;
}

/** Processes that were there at the end of a grid, by what they spend: those that nothing was read of then are left out. */
export function processesAt(series: readonly ProcessSeries[], grid: Grid, interval: DurationMs): ProcessUsage[] {
  const point: Grid = { start: gridEnd(grid), step: grid.step, count: 1 };
  const groups = new Map<string, ProcessSeries[]>();
  for (const one of series) {
    const key = JSON.stringify([one.of, one.pid, one.name]);
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return [...groups.values()]
    .map((own): ProcessUsage => {
      const at = (what: Measured): number | null => {
        const samples = own.filter((one) => one.what === what).map((one) => one.samples);
        // time in several modes is one time
        return orNull((what === 'cpu' ? flowOnGrid : levelOnGrid)(samples, point, interval)[0]);
      };
      const [{ name, pid, of }] = own as [ProcessSeries]; // groups are not empty
      return { name, pid, of, cpu: at('cpu'), memory: at('memory'), threads: at('threads'), files: at('files') };
    })
    .filter(({ cpu, memory, threads }) => cpu !== null || memory !== null || threads !== null)
    .sort((a, b) => (b.cpu ?? 0) - (a.cpu ?? 0) || (b.memory ?? 0) - (a.memory ?? 0) || (a.name < b.name ? -1 : 1));
}
