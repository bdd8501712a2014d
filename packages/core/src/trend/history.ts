import type { DurationMs, EpochMs } from '../units/index.ts';

/** What was read of something that has a limit: `values[i]` at `start + i * step`; NaN where nothing was. */
export interface History {
  readonly start: EpochMs;
  readonly step: DurationMs;
  readonly values: Float64Array;
}
