export {
  type BuiltIn,
  builtIn,
  columnMeasure,
  type EachOf,
  type MeasuredPlace,
  readyOfDesiredEach,
  requestMeasures,
  shareOfLimitEach,
  vitalMeasure,
} from './builtIns.ts';
export { type Catalogue, checkMeasure, type MetricInfo } from './check.ts';
export { indexedOf, matcher } from './conditions.ts';
export {
  type Asked,
  type Evaluated,
  evaluateMeasure,
  explainMeasure,
  MOST_MOMENTS,
  type StepDone,
} from './evaluate/evaluate.ts';
export {
  AT_LEAST,
  type Buckets,
  FILLED,
  type HistogramIn,
  isThere,
  type Labels,
  type Line,
  MISSED,
  NONE,
  PARTIAL,
  type Rolled,
  type SeriesIn,
} from './evaluate/lines.ts';
export { EXAMPLES, type MeasureExample } from './examples.ts';
export {
  INVENTORY_VITALS,
  inventorySeries,
  inventoryVital,
  isInventoryVital,
  kindsOfVital,
  TOLD_EVERY,
} from './inventoryVitals.ts';
export { keepPlaces } from './keepPlaces.ts';
export { lookBackOf } from './lookBack.ts';
export type { Kind, Node, Plan, Read, WrittenStep } from './node.ts';
export {
  labelsAdded,
  type ObjectSpan,
  type ObjectTable,
  objectLabelsFrom,
  TIED_KINDS,
  tieObjects,
} from './objectLabels.ts';
export { LONGEST_BODY, parseMeasure } from './parse.ts';
export { printMeasure, printStep } from './print.ts';
export { isNear, type MeasureProblem, nearestOf, WrongMeasure } from './problem.ts';
export { circleIn, titlesRead } from './readMeasures.ts';
export { looksAtFigures, neededOfRollUps, rollsUpExactly, stepOfSamples } from './rolledUp.ts';
export { STEP_WORDS } from './stepSyntax.ts';
export * from './tree.ts';
export { unitName } from './units.ts';
export { withStep } from './withStep.ts';
export { valueWords } from './words.ts';
export { readWrittenAmount, writeAmount } from './writtenAmount.ts';
