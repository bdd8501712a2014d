export {
  fivesUpTo,
  type MapKnowledge,
  MOST_TOLD,
  mapBySteps,
  minutesUpTo,
  type ReadLine,
  type ReadLinks,
} from './map.ts';
