export {
  COMPARES,
  CONDITION_KINDS,
  CONDITIONS,
  type Compare,
  type Condition,
  type ConditionKind,
  type ConditionOf,
  conditionOf,
  EXPECTED_KINDS,
  type ExpectedKind,
  OBJECT_CHANGES,
  type ObjectChangeKind,
  type RuleLevel,
  type RuleWords,
  ruleSentence,
  type Side,
  UNUSUAL_SIDES,
  type UnusualSide,
} from './conditions.ts';
export { digestBody, digestMessage } from './digest.ts';
export { filledTemplate, HOOK_FIELDS, type HookBody, hookBody, templateProblem } from './hook.ts';
export {
  type HushWhen,
  hoursWords,
  hushedWithin,
  hushWords,
  isHushed,
  isOver,
  isWithinHours,
  minutesAWeek,
  WEEKDAYS,
  type Weekday,
  type WeeklyHours,
} from './hush.ts';
export {
  ALL_CLEAR,
  bothLevels,
  isAllClear,
  isTold,
  type LevelEffect,
  type LevelStates,
  type LevelStep,
  type LevelTimes,
  type LevelVerdicts,
  onLevelsEdited,
  RULE_LEVELS,
  raisedSince,
  stateShown,
  stepLevels,
  worstRaised,
} from './levels.ts';
export { composeMessage, type Message, type MessageFacts, textStrip } from './message.ts';
export { proposedBound, type Tried, weeksIn } from './proposed.ts';
export { SAYING_FIELDS, type SayingField, saying, sayingProblem } from './saying.ts';
export { STARTER_RULES, type StarterRule } from './starters.ts';
export {
  CLEAR,
  onRuleEdited,
  type RuleEffect,
  type RuleState,
  type RuleTimes,
  stepRule,
  type Verdict,
} from './stepRule.ts';
export {
  againstBound,
  againstLevels,
  boundPast,
  bySeverity,
  type Edge,
  lacksPods,
  type OtherBounds,
  stillHolding,
  stricterOf,
  type Thresholds,
  timesOf,
  withOtherBounds,
} from './verdicts.ts';
