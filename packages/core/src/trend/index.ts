export type { History } from './history.ts';
export { fitLine } from './line.ts';
export { dailyRhythm, rhythmAt } from './rhythm.ts';
export { LOOKS_AHEAD, type RunningOut, runningOut, runningOutByScales } from './runningOut.ts';
export { seeded } from './seeded.ts';
