export { DEFAULT_ABOVE, RULE_KINDS, type RuleKind, ruleOf, ruleSentence } from './kinds.ts';
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
export {
  CLEAR,
  onRuleEdited,
  type RuleEffect,
  type RuleState,
  type RuleTimes,
  stepRule,
  type Verdict,
} from './stepRule.ts';
export { judgeMemory, judgeReady } from './verdicts.ts';
