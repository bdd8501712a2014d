import type { Severity } from '../findings/index.ts';
import type { EpochMs } from '../units/index.ts';
import {
  CLEAR,
  onRuleEdited,
  type RuleEffect,
  type RuleState,
  type RuleTimes,
  stepRule,
  type Verdict,
} from './stepRule.ts';

/** The graver stands last. */
export const RULE_LEVELS = ['warning', 'critical'] as const satisfies readonly Severity[];

/** Each level of a rule on one object is a machine of its own; one that the rule does not have stays clear. */
export type LevelStates = Readonly<Record<Severity, RuleState>>;
export const ALL_CLEAR: LevelStates = { warning: CLEAR, critical: CLEAR };
/** Times of the levels that a rule has. */
export type LevelTimes = Readonly<Partial<Record<Severity, RuleTimes>>>;
/** What one look at an object says of each level. */
export type LevelVerdicts = Readonly<Record<Severity, Verdict>>;
export const bothLevels = (verdict: Verdict): LevelVerdicts => ({ warning: verdict, critical: verdict });

/** What is told of an object: the worst level that is raised, when it gets worse, and when the last one is over. */
export type LevelEffect =
  | { readonly tell: 'raised'; readonly severity: Severity; readonly at: EpochMs; readonly since: EpochMs }
  /** Critical on top of a warning that was told; `since` is when it became critical. */
  | { readonly tell: 'worse'; readonly at: EpochMs; readonly since: EpochMs }
  /** Only a warning any more: nobody is told by itself, the next message says it. */
  | { readonly tell: 'lighter'; readonly at: EpochMs; readonly since: EpochMs }
  | Exclude<RuleEffect, { tell: 'raised' }>;
export type LevelStep = readonly [LevelStates, readonly LevelEffect[]];

/** The worst level that is raised, or easing: what stands on Now. */
export function worstRaised(states: LevelStates): Severity | null {
  return RULE_LEVELS.findLast((level) => isTold(states[level])) ?? null;
}
export const isTold = (state: RuleState): boolean => state.kind === 'raised' || state.kind === 'easing';
export const isAllClear = (states: LevelStates): boolean =>
  RULE_LEVELS.every((level) => states[level].kind === 'clear');
/** When what is raised began; null where nothing is. */
export function raisedSince(states: LevelStates): EpochMs | null {
  const began = RULE_LEVELS.flatMap((level) => sinceOf(states[level]) ?? []);
  return began.length === 0 ? null : Math.min(...began);
}
const sinceOf = (state: RuleState): EpochMs | null =>
  state.kind === 'raised' ? state.since : state.kind === 'easing' ? state.raised.since : null;
/** The whole as one state, as an object shows it: the worst level that is raised; else what builds. */
export function stateShown(states: LevelStates): RuleState {
  const worst = worstRaised(states);
  if (worst !== null) return states[worst];
  return RULE_LEVELS.map((level) => states[level]).findLast(({ kind }) => kind === 'building') ?? CLEAR;
}

/** Pure: `(states, verdicts, time, times of the rule) → (states, effects)`. */
export function stepLevels({
  states,
  verdicts,
  at,
  times,
}: {
  readonly states: LevelStates;
  readonly verdicts: LevelVerdicts;
  readonly at: EpochMs;
  readonly times: LevelTimes;
}): LevelStep {
  return together(states, at, (level) => {
    const own = times[level];
    return own === undefined
      ? [states[level], []]
      : stepRule({ state: states[level], verdict: verdicts[level], at, times: own });
  });
}

/** The rule was edited: levels that it does not have any more end, where others are told they go on. */
export function onLevelsEdited({
  states,
  times,
  stillMatched,
  at,
}: {
  readonly states: LevelStates;
  readonly times: LevelTimes;
  readonly stillMatched: boolean;
  readonly at: EpochMs;
}): LevelStep {
  return together(states, at, (level) => onRuleEdited(states[level], stillMatched && times[level] !== undefined, at));
}

function together(
  states: LevelStates,
  at: EpochMs,
  step: (level: Severity) => readonly [RuleState, readonly RuleEffect[]],
): LevelStep {
  const stepped = { warning: step('warning'), critical: step('critical') };
  const next: LevelStates = { warning: stepped.warning[0], critical: stepped.critical[0] };
  const [before, after] = [worstRaised(states), worstRaised(next)];
  if (before === after) return [next, []];
  if (before === null && after !== null)
    return [next, [{ tell: 'raised', severity: after, at, since: raisedSince(next)! }]];
  if (after === 'critical') return [next, [{ tell: 'worse', at, since: sinceOf(next.critical)! }]];
  if (after === 'warning') return [next, [{ tell: 'lighter', at, since: sinceOf(next.warning)! }]];
  // the level that was told last says how it ended
  const ends = RULE_LEVELS.flatMap((level) => stepped[level][1]).filter((effect) => effect.tell !== 'raised');
  const last = ends.at(-1)!; // what was raised and is not any more has ended somehow
  return [next, [{ ...last, since: raisedSince(states)! }]];
}
