import { type Samples, stalenessOf } from '../samples/index.ts';
import type { DurationMs } from '../units/index.ts';
import { type Grid, latestOnGrid, perSecondOnGrid, RATE_INTERVALS, unreadOnGrid } from './grid.ts';

type OnGrid = (samples: Samples) => Float64Array;

/** A sum is unknown where the reading of one of its parts is missing, so that a gap never looks like less. */
function summed({
  all,
  grid,
  interval,
  onGrid,
}: {
  readonly all: readonly Samples[];
  readonly grid: Grid;
  readonly interval: DurationMs;
  readonly onGrid: OnGrid;
}): Float64Array {
  const out = new Float64Array(grid.count).fill(Number.NaN);
  const missing = new Uint8Array(grid.count);
  for (const samples of all) {
    const line = onGrid(samples);
    const unread = unreadOnGrid({ samples, grid, staleness: stalenessOf(interval), from: samples.times[0] ?? 0 });
    for (let i = 0; i < grid.count; i++) {
      if (unread[i] === 1) missing[i] = 1;
      if (!Number.isNaN(line[i]!)) out[i] = (Number.isNaN(out[i]!) ? 0 : out[i]!) + line[i]!;
    }
  }
  return out.map((value, i) => (missing[i] === 1 ? Number.NaN : value));
}

/** Bytes per second of several counters in sum; NaN where one of them is missing, or none was there. */
export const flowOnGrid = (counters: readonly Samples[], grid: Grid, interval: DurationMs): Float64Array =>
  summed({
    all: counters,
    grid,
    interval,
    onGrid: (samples) =>
      perSecondOnGrid({
        samples,
        grid,
        over: Math.max(grid.step, RATE_INTERVALS * interval),
        staleness: stalenessOf(interval),
      }),
  });

/** Several gauges in sum; NaN where one of them is missing, or none was there. */
export const levelOnGrid = (gauges: readonly Samples[], grid: Grid, interval: DurationMs): Float64Array =>
  summed({ all: gauges, grid, interval, onGrid: (samples) => latestOnGrid(samples, grid, stalenessOf(interval)) });
