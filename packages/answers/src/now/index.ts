export {
  blindSpots,
  blindThen,
  connectionSpot,
  endpointSpots,
  type OwnState,
  ownSpots,
  type Spot,
} from './blindSpots.ts';
export { type LookedAt, type NowInput, needsOf, runningOutSoon, wrongIn } from './needs.ts';
