import type { Samples } from '../samples/index.ts';
import type { DurationMs } from '../units/index.ts';
import { type Grid, latestOnGrid, perSecondOnGrid, stalenessOf } from './grid.ts';

/** As for CPU: a mean over this many intervals, so that one late reading does not make a spike. */
const RATE_INTERVALS = 4;

const summed = (grid: Grid, lines: readonly Float64Array[]): Float64Array => {
  const out = new Float64Array(grid.count).fill(Number.NaN);
  for (const line of lines)
    for (let i = 0; i < grid.count; i++)
      if (!Number.isNaN(line[i]!)) out[i] = (Number.isNaN(out[i]!) ? 0 : out[i]!) + line[i]!;
  return out;
};

/** Bytes per second of several counters in sum; NaN where none was read. */
export const flowOnGrid = (counters: readonly Samples[], grid: Grid, interval: DurationMs): Float64Array =>
  summed(
    grid,
    counters.map((samples) =>
      perSecondOnGrid(samples, grid, Math.max(grid.step, RATE_INTERVALS * interval), stalenessOf(interval)),
    ),
  );

/** Several gauges in sum; NaN where none was read. */
export const levelOnGrid = (gauges: readonly Samples[], grid: Grid, interval: DurationMs): Float64Array =>
  summed(
    grid,
    gauges.map((samples) => latestOnGrid(samples, grid, stalenessOf(interval))),
  );
