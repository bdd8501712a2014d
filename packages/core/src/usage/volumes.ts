import { type Samples, stalenessOf } from '../samples/index.ts';
import type { DurationMs } from '../units/index.ts';
import { fullIn, type Grid, latestOnGrid } from './grid.ts';
import { figures, type ResourceUsage } from './usageNode.ts';

/** A volume's use against its size. */
export interface VolumeUsage {
  readonly usage: ResourceUsage;
  /** Until it is full, if it goes on as in the time looked at; null when it does not grow. */
  readonly fullIn: DurationMs | null;
  readonly use: Float64Array;
  readonly size: Float64Array;
  /** Entries of its file system used, and how many it has room for; NaN where not read. */
  readonly entriesUsed: Float64Array;
  readonly entries: Float64Array;
}
/** What the node that mounts a volume says of it. */
export interface VolumeSamples {
  readonly used: Samples;
  readonly size: Samples;
  readonly entriesUsed: Samples;
  readonly entries: Samples;
}

export function volumeUsage(read: VolumeSamples, grid: Grid, interval: DurationMs): VolumeUsage {
  const staleness = stalenessOf(interval);
  const line = (samples: Samples) => latestOnGrid(samples, grid, staleness);
  const use = line(read.used);
  const whole = line(read.size);
  const nothing = new Float64Array(grid.count).fill(Number.NaN);
  const usage = figures(
    { use, read: use, unread: new Uint8Array(grid.count), request: nothing, limit: whole },
    'size',
    null,
  );
  return {
    usage,
    fullIn: usage.limit === null ? null : fullIn(use, grid.step, usage.limit),
    use,
    size: whole,
    entriesUsed: line(read.entriesUsed),
    entries: line(read.entries),
  };
}
