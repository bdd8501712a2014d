export { type BoxState, boxStatesBySteps, withStates } from './boxStates.ts';
export { fivesOfDay, hoursOfLast, lastHeard, minutesOfHour, wholeHour } from './day.ts';
export { mapDifference } from './difference.ts';
export { endingsOf, hoursOfFortnight, type ReadFortnight } from './endings.ts';
export { type MapKnowledge, MOST_TOLD, mapBySteps, troubledLinks } from './map.ts';
export {
  fivesUpTo,
  minutesUpTo,
  NO_USUAL,
  type ReadDay,
  type ReadLine,
  type ReadLinks,
  type ReadUsual,
} from './read.ts';
