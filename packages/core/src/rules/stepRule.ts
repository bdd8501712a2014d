import type { DurationMs, EpochMs } from '../units/index.ts';

/** States of one rule on one object at one severity level (design/rules.md). Times are when the thing itself began. */
export type RuleState =
  | { readonly kind: 'clear' }
  | { readonly kind: 'building'; readonly since: EpochMs }
  | Raised
  | { readonly kind: 'easing'; readonly since: EpochMs; readonly raised: Raised };

export interface Raised {
  readonly kind: 'raised';
  /** When the condition began to hold. */
  readonly since: EpochMs;
  /** When it had held long enough. */
  readonly raisedAt: EpochMs;
  /** Set while no data arrives: "raised, unseen since". */
  readonly unseenSince: EpochMs | null;
}

/** What one look at the object says. `since` is given where the objects themselves prove an earlier beginning. */
export type Verdict =
  | { readonly is: 'holds'; readonly since?: EpochMs }
  | { readonly is: 'breaks' }
  | { readonly is: 'noData' }
  | { readonly is: 'gone' };

export interface RuleTimes {
  /** How long the condition must hold before anybody is told. */
  readonly holds: DurationMs;
  /** How long it must be over before it counts as clear. */
  readonly eases: DurationMs;
}

export type RuleEffect =
  | { readonly tell: 'raised'; readonly at: EpochMs; readonly since: EpochMs }
  | { readonly tell: 'cleared'; readonly at: EpochMs; readonly since: EpochMs }
  | {
      readonly tell: 'ended';
      readonly at: EpochMs;
      readonly since: EpochMs;
      readonly why: 'object gone' | 'rule changed';
    };

export type Step = readonly [RuleState, readonly RuleEffect[]];

export const CLEAR: RuleState = { kind: 'clear' };
const NOTHING: readonly RuleEffect[] = [];

/** Pure: `(state, verdict, time, times of the rule) → (state, effects)`. */
export function stepRule({
  state,
  verdict,
  at,
  times,
}: {
  readonly state: RuleState;
  readonly verdict: Verdict;
  readonly at: EpochMs;
  readonly times: RuleTimes;
}): Step {
  switch (state.kind) {
    case 'clear':
      return verdict.is === 'holds' ? raiseWhenHeld(Math.min(verdict.since ?? at, at), at, times) : [CLEAR, NOTHING];
    case 'building':
      return verdict.is === 'holds' ? raiseWhenHeld(state.since, at, times) : [CLEAR, NOTHING];
    case 'raised':
      return whileRaised({ state, verdict, at, times });
    case 'easing':
      return whileEasing({ state, verdict, at, times });
  }
}

function raiseWhenHeld(since: EpochMs, at: EpochMs, times: RuleTimes): Step {
  if (at - since < times.holds) return [{ kind: 'building', since }, NOTHING];
  return [{ kind: 'raised', since, raisedAt: at, unseenSince: null }, [{ tell: 'raised', at, since }]];
}

function ended(raised: Raised, at: EpochMs, why: 'object gone' | 'rule changed'): Step {
  return [CLEAR, [{ tell: 'ended', at, since: raised.since, why }]];
}

const seen = (raised: Raised): Raised => (raised.unseenSince === null ? raised : { ...raised, unseenSince: null });

function whileRaised({
  state,
  verdict,
  at,
  times,
}: {
  readonly state: Raised;
  readonly verdict: Verdict;
  readonly at: EpochMs;
  readonly times: RuleTimes;
}): Step {
  switch (verdict.is) {
    case 'holds':
      return [seen(state), NOTHING];
    case 'breaks':
      return easeWhenOver({ kind: 'easing', since: at, raised: seen(state) }, at, times);
    case 'noData':
      return [state.unseenSince === null ? { ...state, unseenSince: at } : state, NOTHING];
    case 'gone':
      return ended(state, at, 'object gone');
  }
}

function easeWhenOver(state: Extract<RuleState, { kind: 'easing' }>, at: EpochMs, times: RuleTimes): Step {
  if (at - state.since < times.eases) return [state, NOTHING];
  return [CLEAR, [{ tell: 'cleared', at, since: state.raised.since }]];
}

function whileEasing({
  state,
  verdict,
  at,
  times,
}: {
  readonly state: Extract<RuleState, { kind: 'easing' }>;
  readonly verdict: Verdict;
  readonly at: EpochMs;
  readonly times: RuleTimes;
}): Step {
  switch (verdict.is) {
    case 'holds': // it never was over: back without telling anybody again
      return [seen(state.raised), NOTHING];
    case 'breaks':
      return easeWhenOver({ ...state, raised: seen(state.raised) }, at, times);
    case 'noData':
      return [
        { ...state, since: at, raised: { ...state.raised, unseenSince: state.raised.unseenSince ?? at } },
        NOTHING,
      ];
    case 'gone':
      return ended(state.raised, at, 'object gone');
  }
}

/** The rule was edited: what was building starts its hold again; what was raised stays so and is judged by the new rule. */
export function onRuleEdited(state: RuleState, stillMatched: boolean, at: EpochMs): Step {
  switch (state.kind) {
    case 'clear':
    case 'building':
      return [CLEAR, NOTHING];
    case 'raised':
      return stillMatched ? [state, NOTHING] : ended(state, at, 'rule changed');
    case 'easing':
      return stillMatched ? [state.raised, NOTHING] : ended(state.raised, at, 'rule changed');
  }
}
