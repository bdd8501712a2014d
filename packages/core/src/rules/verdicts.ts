import type { Severity } from '../findings/index.ts';
import type { WorkloadObject } from '../inventory/index.ts';
import { isEndMarker, type Samples } from '../samples/index.ts';
import type { DurationMs, EpochMs } from '../units/index.ts';
import type { RuleLevel } from './conditions.ts';
import { bothLevels, type LevelTimes, type LevelVerdicts } from './levels.ts';
import type { Verdict } from './stepRule.ts';

type Levels = Readonly<Record<Severity, RuleLevel | null>>;

/** What a rule compares with: the numbers of its levels, the one at which it is over, and the side on which it holds. */
export interface Thresholds {
  readonly levels: Levels;
  readonly clears: number | null;
  readonly side: 'above' | 'below';
}
/** Whether a value is past a number. */
export const againstBound = (value: number, bound: number, side: Thresholds['side']): boolean =>
  side === 'above' ? value > bound : value < bound;
/** A value against each level's number; null: nothing was read. `more` goes with what holds. */
export function againstLevels(
  value: number | null,
  { levels, clears, side }: Thresholds,
  more: { readonly reading?: EpochMs; readonly partial?: true } = {},
): LevelVerdicts {
  if (value === null) return bothLevels({ is: 'noData' });
  const beyond = (bound: number) => againstBound(value, bound, side);
  const of = (bound: number | null): Verdict => {
    if (bound !== null && beyond(bound)) return { is: 'holds', ...more };
    return clears !== null && beyond(clears) ? { is: 'between' } : { is: 'breaks' };
  };
  return { warning: of(levels.warning?.bound ?? null), critical: of(levels.critical?.bound ?? null) };
}
/** Of what is found: each level holds from its severity on. Null: nothing is. */
export function bySeverity(found: Severity | null, since: EpochMs | null): LevelVerdicts {
  const holds: Verdict = since === null ? { is: 'holds' } : { is: 'holds', since };
  return {
    warning: found === null ? { is: 'breaks' } : holds,
    critical: found === 'critical' ? holds : { is: 'breaks' },
  };
}

/** Times of the levels that there are. */
export function timesOf(levels: Levels, afterSeconds: number): LevelTimes {
  const of = (level: RuleLevel | null) =>
    level && {
      holds: level.holdsSeconds * 1000,
      eases: afterSeconds * 1000,
      ...(level.readings === null ? {} : { readings: level.readings }),
    };
  const [warning, critical] = [of(levels.warning), of(levels.critical)];
  return { ...(warning ? { warning } : {}), ...(critical ? { critical } : {}) };
}

/** The newest sample that still holds at a moment. */
export function newestAt(samples: Samples, at: EpochMs, staleness: DurationMs): { value: number; at: EpochMs } | null {
  let index = samples.times.length - 1;
  while (index >= 0 && samples.times[index]! > at) index--;
  const value = samples.values[index];
  if (value === undefined || at - samples.times[index]! > staleness || isEndMarker(value) || Number.isNaN(value))
    return null;
  return { value, at: samples.times[index]! };
}

/** Whether a workload has fewer pods ready than it is to have, as it counts them itself. */
export const lacksPods = (workload: WorkloadObject): boolean => !workload.paused && workload.ready < workload.desired;
