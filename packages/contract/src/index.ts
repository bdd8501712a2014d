export { FirstPerson, Level, PermitAnswer, Person, Role, SessionAnswer, SignIn } from './access.ts';
export {
  AuditAnswer,
  AuditEntry,
  AuditOutcome,
  AuditQuery,
  GrantAnswer,
  NewPerson,
  NewTokenAnswer,
  OwnPassword,
  PersonAnswer,
  PersonChange,
  RetentionAnswer,
  SightAnswer,
  TeamAnswer,
  TeamsAnswer,
  TokenAnswer,
  TokenInput,
} from './admin.ts';
export {
  ChangeAnswer,
  ClusterDocument,
  DOCUMENT_KINDS,
  DOCUMENT_SCHEMAS,
  DocumentDifference,
  DocumentKey,
  DocumentKind,
  type DocumentOf,
  FILE_VERSION,
  FileAnswer,
  FileForm,
  FileInput,
  FileProblem,
  FileQuery,
  GrantDocument,
  type OwnershipAnswer,
  OwnershipDocument,
  RetentionDocument,
  RetentionKept,
  RevisionAnswer,
  RevisionInput,
  RevisionSheet,
  RevisionsAnswer,
  RevisionsQuery,
  RuleDocument,
  SECTION_OF,
  TeamDocument,
} from './configuration.ts';
export { ImportAnswer, ImportQuery, ImportsAnswer, ImportWhat, StateLine } from './imports.ts';
export { LiveMessage, LiveTopic } from './live.ts';
export { AlertAnswer, NowAnswer } from './now.ts';
export { Problem } from './problems.ts';
export { DeliveryAnswer, RuleAnswer, RuleChange, RuleKind, RulesAnswer } from './rules.ts';
export { ClusterTrait, readScope, readTrait, ScopePath, ScopeQuery, writeQuery, writeScope } from './scope.ts';
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
export { AgainstQuery, EpochMs, WindowQuery } from './time.ts';
export {
  type By,
  ByQuery,
  type Compared,
  type Figures,
  Finding,
  type FlowLines,
  Mark,
  type QuotaLine,
  type RelatedLine,
  SheetAnswer,
  TapeAnswer,
  UsageAnswer,
  UsageColumn,
  UsageLevel,
  UsageRow,
  type VolumeLine,
} from './usage.ts';
