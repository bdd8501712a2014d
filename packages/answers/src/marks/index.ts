export { marksOf, usedBy } from './marks.ts';
