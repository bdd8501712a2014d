export { type History, LOOKS_AHEAD, type RunningOut, runningOut } from './runningOut.ts';
export { seeded } from './seeded.ts';
