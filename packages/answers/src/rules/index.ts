export { expectedOccurrences } from './expected.ts';
export { foundSubjects } from './found.ts';
export { heardOccurrences } from './heard.ts';
export { type OwnHealth, ownOccurrences } from './itself.ts';
export {
  type Band,
  type JudgedLine,
  type JudgedMeasure,
  type LineCondition,
  lineKey,
  lineName,
  lineSubjects,
  type MeasureCondition,
  pathOfLabels,
  verdictsAt,
} from './measureLines.ts';
export { memorySubjects } from './memory.ts';
export { flapsIn, type Noise, noiseOf, type PastAlert, quieted, type Suggestion } from './noise.ts';
export { changedObjects, kindsWatched } from './objectChanges.ts';
export { type Occurrence, occurrenceLines, occurrenceSubjects, SEVERITY_THRESHOLDS } from './occurrences.ts';
export { readySubjects } from './ready.ts';
export {
  type CurvePoint,
  type Rehearsal,
  type RehearsalOf,
  type Rehearsed,
  rehearse,
  type Trouble,
} from './rehearse.ts';
export { selectorSeen, selects, selectsAll } from './selector.ts';
export { silentOccurrences, silentSubjects } from './silent.ts';
export { type AlertFacts, type JudgedCluster, NO_TRAITS, type Subject, type Traits, traitsOf } from './subject.ts';
export { departures, type UsualLine, usualByHour, usualOfQuiet } from './unusual.ts';
