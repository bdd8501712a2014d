export { mapDifference } from './difference.ts';
export {
  fivesUpTo,
  type MapKnowledge,
  MOST_TOLD,
  mapBySteps,
  minutesUpTo,
  NO_USUAL,
  type ReadLine,
  type ReadLinks,
  type ReadUsual,
  troubledLinks,
} from './map.ts';
