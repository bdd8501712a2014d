import './words.ts';

export { FirstPerson, Level, PermitAnswer, Person, Role, RowNumber, SessionAnswer, SignIn } from './access.ts';
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
export { CHANNEL_DOES, ChannelDocument, type ChannelDoes, ChannelInput, ChannelsAnswer } from './channels.ts';
export {
  ChangeAnswer,
  ClusterDocument,
  DOCUMENT_KINDS,
  DOCUMENT_SCHEMAS,
  DocumentDifference,
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
  SECTION_OF,
  TeamDocument,
} from './configuration.ts';
export {
  CensusAnswer,
  CensusQuery,
  CoverageAnswer,
  CoverageQuery,
  DropPreview,
  DropPreviewInput,
  PodPortsAnswer,
  PodPortsInput,
} from './coverage.ts';
export { CriticalityAnswer, CriticalityDocument, CriticalityIs } from './criticality.ts';
export {
  DependantsAnswer,
  DropRuleDocument,
  EndpointDocument,
  EndpointInput,
  EndpointsInput,
  GivenAnswer,
  HistoryAnswer,
  IntervalsAnswer,
  IntervalsDocument,
  MetricsAnswer,
  MetricsQuery,
  SeriesAnswer,
  SeriesQuery,
  SourceKey,
  TryAnswer,
  TryInput,
  UseInput,
} from './endpoints.ts';
export { FindAnswer, FindQuery } from './find.ts';
export { Fixture } from './fixture.ts';
export {
  FollowDocument,
  FollowState,
  FollowsAnswer,
  LINE_GAPS,
  LineGap,
  type LineGapReason,
} from './follows.ts';
export {
  FORWARD_SIGNALS,
  ForwardDocument,
  ForwardInput,
  ForwardSignal,
  ForwardState,
  ForwardsAnswer,
  ForwardTest,
} from './forwards.ts';
export { HushAnswer, HushDocument, HushesAnswer } from './hushes.ts';
export { ImportAnswer, ImportQuery, ImportsAnswer, ImportWhat, StateLine } from './imports.ts';
export { LiveMessage, LiveTopic } from './live.ts';
export { LINK_CHANGES, LinkAnswer, type LinkChange, LinkQuery, MapAnswer, MapBox, MapLink, MapTrouble } from './map.ts';
export { MaskDocument, MaskPreview, MasksAnswer } from './masks.ts';
export {
  MeasureAnswer,
  MeasureBody,
  MeasureInput,
  MetricLabelsAnswer,
  MetricLabelsQuery,
  MetricNamesAnswer,
  MetricNamesQuery,
} from './measures.ts';
export { AlertAnswer, NowAnswer, TakeInput } from './now.ts';
export { DocumentKey } from './objectNames.ts';
export {
  clusterOf,
  EVERYTHING,
  liesIn,
  namesOf,
  namespaceOf,
  type ObjectPath,
  type PathOf,
  type PlacedKind,
  partOf,
  pathKey,
  pathOfObject,
  placeOf,
  readPath,
  readWorkloadKey,
  touches,
  workloadIn,
  writePath,
} from './objectPath.ts';
export {
  OperationFigures,
  OperationsAnswer,
  OperationsQuery,
  RequestFigures,
} from './operations.ts';
export { Problem } from './problems.ts';
export { NewPushToken, PushDocument, type PushKeyAnswer, PushKeysAnswer } from './push.ts';
export {
  type LineAnswer,
  LinesAnswer,
  TraceAnswer,
  type TraceLine,
  type TraceStep,
  TracesAnswer,
} from './records.ts';
export {
  DeliveriesAnswer,
  DeliveriesQuery,
  DeliveryAnswer,
  LateAnswer,
  NoiseAnswer,
  QuieterAnswer,
  RehearsalAnswer,
  RehearsalId,
  RehearsalInput,
  RehearsalProgress,
  RuleAnswer,
  RuleSheet,
  RulesAnswer,
  StricterInput,
} from './ruleAnswers.ts';
export { RuleLevel, RuleSelector, SELECTABLE_KINDS, type SelectedKind } from './ruleConditions.ts';
export { RuleDocument, RuleState } from './rules.ts';
export { MeasureDocument, MeasureVersionsAnswer, SavedMeasuresAnswer } from './savedMeasures.ts';
export { ClusterTrait, readScope, readTrait, ScopePath, ScopeQuery, writeQuery, writeScope } from './scope.ts';
export {
  ScoutAnswer,
  ScoutDependants,
  ScoutDocument,
  ScoutInput,
  ScoutPreview,
  ScoutPreviewInput,
  ScoutsAnswer,
  ScoutTake,
  SERVES_KEY,
} from './scouts.ts';
export {
  type FlowLines,
  LogAnswer,
  LogQuery,
  Mark,
  type QuotaLine,
  type RelatedLine,
  RunningOutLine,
  SheetAnswer,
  type SheetMeasures,
  VersionsAnswer,
  type VolumeLine,
} from './sheet.ts';
export {
  ClusterName,
  ConnectionAnswer,
  ConnectionChange,
  ConnectionInput,
  ConnectionTest,
  EndpointAnswer,
  OPTIONAL_KINDS,
  RawPage,
  SourcesAnswer,
  trimmedBlanks,
} from './sources.ts';
export {
  STRETCH_KINDS,
  StretchAnswer,
  StretchDocument,
  StretchEnd,
  StretchesAnswer,
  StretchesQuery,
  type StretchKind,
} from './stretches.ts';
export { TapeAnswer } from './tape.ts';
export { AgainstQuery, EpochMs, Moment, Weekly, WindowQuery } from './time.ts';
export {
  type By,
  ByQuery,
  type Compared,
  type Figures,
  Finding,
  OtherQuery,
  OtherResource,
  TableAnswer,
  TableLevel,
  TableQuery,
  TableRow,
  UsageAnswer,
  UsageColumn,
  UsageLevel,
  UsageRow,
} from './usage.ts';
export { SavedView, SavedViewInput, SavedViewsAnswer } from './views.ts';
export { MACHINES, VitalMappingDocument, VitalsAnswer, VitalsDocument } from './vitals.ts';
export {
  type AccountGrade,
  type AccountRule,
  API_KINDS,
  accountManifest,
  accountRules,
  apiPath,
  FIXTURE_LINES,
} from './wire-names.ts';
