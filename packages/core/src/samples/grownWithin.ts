import type { EpochMs } from '../units/index.ts';
import type { Samples } from './chunk.ts';

/**
 * How much a counter grew in (from, to], over its resets. `begins`: what has nothing before `from` grew from nothing; else it may have
 * counted for long, and its first value is where one begins.
 */
export function grownWithin(
  { times, values }: Samples,
  { from, to, begins }: { readonly from: EpochMs; readonly to: EpochMs; readonly begins: boolean },
): number {
  let before: number | null = null;
  let grown = 0;
  for (let i = 0; i < times.length; i++) {
    const [at, value] = [times[i]!, values[i]!]; // as many as times
    if (at > to) break;
    if (Number.isNaN(value)) continue;
    if (at > from) {
      if (before !== null) grown += value >= before ? value - before : value;
      else if (begins) grown += value;
    }
    before = value;
  }
  return grown;
}
