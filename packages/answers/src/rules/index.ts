export { foundSubjects } from './found.ts';
export {
  type JudgedLine,
  type JudgedMeasure,
  lineKey,
  lineName,
  lineSubjects,
  type MeasureCondition,
  pathOfLabels,
  verdictsAt,
} from './measureLines.ts';
export { memorySubjects } from './memory.ts';
export { flapsIn, type Noise, noiseOf, type PastAlert, type Suggestion } from './noise.ts';
export { readySubjects } from './ready.ts';
export { type CurvePoint, type Rehearsal, type RehearsalOf, type Rehearsed, rehearse } from './rehearse.ts';
export { selectorSeen, selects, selectsAll } from './selector.ts';
export { silentSubjects } from './silent.ts';
export { type AlertFacts, type JudgedCluster, type Subject, type Traits, traitsOf } from './subject.ts';
