export { fivesUpTo, type MapKnowledge, MOST_TOLD, mapOf, minutesUpTo, type ReadLine, type ReadLinks } from './map.ts';
