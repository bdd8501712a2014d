export { blindSpots, blindThen, type OwnState } from './blindSpots.ts';
export { type LookedAt, type NowInput, needsOf, runningOutSoon } from './needs.ts';
