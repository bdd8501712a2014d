export {
  COMPARES,
  CONDITION_KINDS,
  CONDITIONS,
  type Compare,
  type Condition,
  type ConditionKind,
  type ConditionOf,
  conditionOf,
  type RuleLevel,
  type RuleWords,
  ruleSentence,
} from './conditions.ts';
export { filledTemplate, HOOK_FIELDS, type HookBody, hookBody, templateProblem } from './hook.ts';
export { type HushWhen, hushWords, isHushed, isOver, minutesAWeek, WEEKDAYS, type Weekday } from './hush.ts';
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
export { againstBound, againstLevels, bySeverity, lacksPods, newestAt, type Thresholds, timesOf } from './verdicts.ts';
