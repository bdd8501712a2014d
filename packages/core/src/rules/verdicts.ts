import type { Severity } from '../findings/index.ts';
import type { WorkloadObject } from '../inventory/index.ts';
import { isEndMarker, type Sample } from '../samples/index.ts';
import type { DurationMs, EpochMs } from '../units/index.ts';
import type { RuleLevel, Side } from './conditions.ts';
import { bothLevels, type LevelTimes, type LevelVerdicts } from './levels.ts';
import type { Verdict } from './stepRule.ts';

type Levels = Readonly<Record<Severity, RuleLevel | null>>;

/** A number, and where two belong together the lower one. */
export interface Edge {
  readonly bound: number | null;
  readonly low: number | null;
}
/** What a rule compares with: the numbers of its levels, those at which it is over, and the side on which it holds. */
export interface Thresholds {
  readonly levels: Levels;
  readonly clears: Edge;
  readonly side: Side;
}
/** Whether a value is past a number, or outside of two. */
export const againstBound = (value: number, bound: number, side: Side, low: number | null = null): boolean =>
  side === 'below' ? value < bound : value > bound || (side === 'outside' && low !== null && value < low);
/** A value against each level's number; null: nothing was read. `more` goes with what holds. */
export function againstLevels(
  value: number | null,
  { levels, clears, side }: Thresholds,
  more: { readonly reading?: EpochMs; readonly partial?: true; readonly since?: EpochMs } = {},
): LevelVerdicts {
  if (value === null) return bothLevels({ is: 'noData' });
  const beyond = (edge: Edge | null) =>
    edge != null && edge.bound !== null && againstBound(value, edge.bound, side, edge.low);
  const of = (level: Edge | null): Verdict => {
    if (beyond(level)) return { is: 'holds', ...more };
    return beyond(clears) ? { is: 'between' } : { is: 'breaks' };
  };
  return { warning: of(levels.warning), critical: of(levels.critical) };
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

/** The newest sample, where it still holds at a moment: it is not too old, and no end. */
export const stillHolding = (newest: Sample | null, at: EpochMs, staleness: DurationMs): Sample | null =>
  newest === null || at - newest.at > staleness || isEndMarker(newest.value) || Number.isNaN(newest.value)
    ? null
    : newest;

/** Whether a workload has fewer pods ready than it is to have, as it counts them itself. */
export const lacksPods = (workload: WorkloadObject): boolean => !workload.paused && workload.ready < workload.desired;

/** The number of the gravest level that a value is past, else of the lowest that there is; null where none compares. */
export function boundPast(value: number | null, { levels, side }: Thresholds): Edge | null {
  const edges = [levels.warning, levels.critical].filter((own) => own !== null && own.bound !== null);
  const past = edges.findLast((own) => value !== null && againstBound(value, own!.bound!, side, own!.low));
  return past ?? edges[0] ?? null;
}
/** Other numbers for some objects than a rule's own; null: as the rule. */
export interface OtherBounds {
  readonly warning: number | null;
  readonly critical: number | null;
  readonly clears: number | null;
}
/** A level that the rule does not have it has for nobody. */
export function withOtherBounds(thresholds: Thresholds, other: OtherBounds): Thresholds {
  const { levels, clears } = thresholds;
  const own = (level: RuleLevel | null, bound: number | null) => level && { ...level, bound: bound ?? level.bound };
  return {
    ...thresholds,
    levels: { warning: own(levels.warning, other.warning), critical: own(levels.critical, other.critical) },
    clears: { ...clears, bound: other.clears ?? clears.bound },
  };
}
/** The stricter of two, for each level that the rule has: what a team asks for loosens nothing. */
export function stricterOf(thresholds: Thresholds, own: Pick<OtherBounds, 'warning' | 'critical'>): Thresholds {
  const { side, levels } = thresholds;
  const nearer = (a: number | null, b: number | null) =>
    a === null || b === null ? (a ?? b) : side === 'below' ? Math.max(a, b) : Math.min(a, b);
  const of = (level: RuleLevel | null, bound: number | null) =>
    level && { ...level, bound: nearer(level.bound, bound) };
  const next = { warning: of(levels.warning, own.warning), critical: of(levels.critical, own.critical) };
  // where it is over cannot lie past where it is raised
  const first = next.warning?.bound ?? next.critical?.bound ?? null;
  const { bound } = thresholds.clears;
  return {
    ...thresholds,
    levels: next,
    clears: { ...thresholds.clears, bound: bound === null || first === null ? bound : nearer(bound, first) },
  };
}
