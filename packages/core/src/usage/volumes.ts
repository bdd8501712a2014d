import type { Samples } from '../samples/index.ts';
import type { DurationMs } from '../units/index.ts';
import { fullIn, type Grid, latestOnGrid, stalenessOf } from './grid.ts';
import { figures, type ResourceUsage } from './usageNode.ts';

/** A volume's use against its size. */
export interface VolumeUsage {
  readonly usage: ResourceUsage;
  /** Until it is full, if it goes on as in the time looked at; null when it does not grow. */
  readonly fullIn: DurationMs | null;
  readonly use: Float64Array;
  readonly size: Float64Array;
}

/** `used` and `size` are what the node that mounts it says. */
export function volumeUsage(used: Samples, size: Samples, grid: Grid, interval: DurationMs): VolumeUsage {
  const staleness = stalenessOf(interval);
  const use = latestOnGrid(used, grid, staleness);
  const whole = latestOnGrid(size, grid, staleness);
  const nothing = new Float64Array(grid.count).fill(Number.NaN);
  const usage = figures(
    { use, read: use, unread: new Uint8Array(grid.count), request: nothing, limit: whole },
    'size',
    null,
  );
  return { usage, fullIn: usage.limit === null ? null : fullIn(use, grid.step, usage.limit), use, size: whole };
}
