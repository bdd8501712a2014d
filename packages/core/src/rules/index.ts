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
