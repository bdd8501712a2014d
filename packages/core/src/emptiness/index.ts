export { EMPTY_CODES, type Emptiness, type EmptyCode, emptyBecause, emptyWords } from './emptiness.ts';
