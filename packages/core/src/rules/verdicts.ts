import type { WorkloadObject } from '../inventory/index.ts';
import { isEndMarker, type Samples } from '../samples/index.ts';
import type { DurationMs, EpochMs } from '../units/index.ts';
import type { Verdict } from './stepRule.ts';

/** A container's memory at `at` against a share of its limit. `samples`: working set in bytes. */
export function judgeMemory({
  samples,
  at,
  staleness,
  limit,
  above,
}: {
  readonly samples: Samples;
  readonly at: EpochMs;
  readonly staleness: DurationMs;
  readonly limit: number | null;
  readonly above: number;
}): { verdict: Verdict; value: number | null } {
  if (limit === null || limit <= 0) return { verdict: { is: 'breaks' }, value: null };
  let index = samples.times.length - 1;
  while (index >= 0 && samples.times[index]! > at) index--;
  const value = samples.values[index];
  if (value === undefined || at - samples.times[index]! > staleness || isEndMarker(value) || Number.isNaN(value)) {
    return { verdict: { is: 'noData' }, value: null };
  }
  return { verdict: { is: value / limit > above ? 'holds' : 'breaks' }, value };
}

/** Ready against desired pods, as the workload itself counts them. `since`: when that began, null where nothing proves it. */
export function judgeReady(workload: WorkloadObject, since: () => EpochMs | null): Verdict {
  if (workload.paused || workload.ready >= workload.desired) return { is: 'breaks' };
  const began = since();
  return began === null ? { is: 'holds' } : { is: 'holds', since: began };
}
