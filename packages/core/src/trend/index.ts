export type { History } from './history.ts';
export { LOOKS_AHEAD, type RunningOut, runningOut, runningOutByScales } from './runningOut.ts';
export { seeded } from './seeded.ts';
