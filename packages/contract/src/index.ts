export { FirstPerson, Person, Role, SessionAnswer, SignIn } from './access.ts';
export {
  AuditAnswer,
  AuditEntry,
  AuditOutcome,
  AuditQuery,
  NewPerson,
  OwnPassword,
  PersonAnswer,
  PersonChange,
} from './admin.ts';
export { LiveMessage, LiveTopic } from './live.ts';
export { AlertAnswer, NowAnswer } from './now.ts';
export { Problem } from './problems.ts';
export { DeliveryAnswer, RuleAnswer, RuleChange, RuleKind, RulesAnswer, TeamAnswer, TeamInput } from './rules.ts';
export { readScope, ScopePath, ScopeQuery, writeQuery, writeScope } from './scope.ts';
export {
  ConnectionAnswer,
  ConnectionChange,
  ConnectionInput,
  ConnectionTest,
  EndpointAnswer,
  RawPage,
  SourcesAnswer,
  trimmedBlanks,
} from './sources.ts';
export { EpochMs, WindowQuery } from './time.ts';
export {
  type Figures,
  Finding,
  Mark,
  SheetAnswer,
  TapeAnswer,
  UsageAnswer,
  UsageColumn,
  UsageLevel,
  UsageRow,
} from './usage.ts';
