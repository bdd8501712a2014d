export { type BoxState, boxStatesBySteps, withStates } from './boxStates.ts';
export { mapDifference } from './difference.ts';
export { type MapKnowledge, MOST_TOLD, mapBySteps, troubledLinks } from './map.ts';
export { fivesUpTo, minutesUpTo, NO_USUAL, type ReadLine, type ReadLinks, type ReadUsual } from './pairs.ts';
