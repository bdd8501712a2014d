export { type AlertFacts, type JudgedCluster, SUBJECTS, type Subject } from './subjects.ts';
