export { mainOf, PURPOSES, type Purpose, purposeOf, type TellsPurpose } from './purpose.ts';
