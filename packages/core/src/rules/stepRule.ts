import type { DurationMs, EpochMs } from '../units/index.ts';

/** States of one rule on one object at one severity level (design/rules.md). Times are when the thing itself began. */
export type RuleState =
  | { readonly kind: 'clear' }
  | Building
  | Raised
  | { readonly kind: 'easing'; readonly since: EpochMs; readonly raised: Raised };

export interface Building {
  readonly kind: 'building';
  readonly since: EpochMs;
  /** Of a rule that counts readings: how many held in a row, and when the newest of them was. */
  readonly counted?: { readonly readings: number; readonly newest: EpochMs };
}

export interface Raised {
  readonly kind: 'raised';
  /** When the condition began to hold. */
  readonly since: EpochMs;
  /** When it had held long enough. */
  readonly raisedAt: EpochMs;
  /** Set while no data arrives: "raised, unseen since". */
  readonly unseenSince: EpochMs | null;
}

/**
 * What one look at the object says. `since` is given where the objects themselves prove an earlier beginning; `reading` is
 * when what it rests on was read, where it was read less often than it is judged; `partial`: a part of it was not read.
 * `between`: past the clear level, not past the threshold.
 */
export type Verdict =
  | { readonly is: 'holds'; readonly since?: EpochMs; readonly reading?: EpochMs; readonly partial?: true }
  | { readonly is: 'breaks' }
  | { readonly is: 'between' }
  | { readonly is: 'noData' }
  | { readonly is: 'gone' };

export interface RuleTimes {
  /** How long the condition must hold before anybody is told. */
  readonly holds: DurationMs;
  /** Instead of a time: in how many complete readings, one after the other. */
  readonly readings?: number;
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
      if (verdict.is !== 'holds') return [CLEAR, NOTHING];
      return raiseWhenHeld({ kind: 'building', since: Math.min(verdict.since ?? at, at) }, verdict, at, times);
    case 'building':
      return verdict.is === 'holds' ? raiseWhenHeld(state, verdict, at, times) : [CLEAR, NOTHING];
    case 'raised':
      return whileRaised({ state, verdict, at, times });
    case 'easing':
      return whileEasing({ state, verdict, at, times });
  }
}

function raiseWhenHeld(state: Building, verdict: Holds, at: EpochMs, times: RuleTimes): Step {
  const { since } = state;
  const counted = times.readings === undefined ? undefined : oneMore(state.counted, verdict, at);
  const held = counted === undefined ? at - since >= times.holds : counted.readings >= (times.readings ?? 1);
  if (!held) return [{ kind: 'building', since, ...(counted ? { counted } : {}) }, NOTHING];
  return [{ kind: 'raised', since, raisedAt: at, unseenSince: null }, [{ tell: 'raised', at, since }]];
}
type Holds = Extract<Verdict, { is: 'holds' }>;
/** The same reading counts once, however often it is judged; one of which a part is missing does not count. */
function oneMore(before: Building['counted'], { reading, partial }: Holds, at: EpochMs): Building['counted'] & object {
  const { readings, newest } = before ?? { readings: 0, newest: Number.NEGATIVE_INFINITY };
  const own = reading ?? at;
  return partial || own <= newest ? { readings, newest } : { readings: readings + 1, newest: own };
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
    case 'between':
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
    case 'between':
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

/** A level of a rule that was edited: what was building starts its hold again; what was raised stays so and is judged by the new rule. */
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
