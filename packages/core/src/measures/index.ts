export { LONGEST_BODY, parseMeasure } from './parse.ts';
export { printMeasure, printStep } from './print.ts';
export { type MeasureProblem, nearestOf } from './problem.ts';
export * from './tree.ts';
