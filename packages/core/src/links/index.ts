export { birthsOf, type LinkBirth, type LinkTurn, type ToldLink } from './births.ts';
export { type Dependant, dependants, type WalkedLink } from './dependants.ts';
export { AddressHolders, type Holder } from './holders.ts';
export { inLanes, type LaidOut, type LaneBox, type LaneLink, lanesBySteps } from './lanes.ts';
export {
  endKey,
  isOutside,
  type Link,
  type LinkEnd,
  type LinkRequest,
  OUTSIDE,
  pairKey,
  readEndKey,
  readPort,
  SEEN_BY,
  type SeenBy,
} from './link.ts';
export { type FolderTools, LinkFolder, type Named } from './pairing.ts';
export { type CountedPast, type PastStretch, PastWires } from './past.ts';
export {
  type Cause,
  causeOf,
  type JudgedLink,
  SIDES,
  type Side,
  type TroubleEntry,
  troubleBySteps,
  troubleOf,
} from './side.ts';
export { gapsIn, type LinkDay, silentSince } from './silence.ts';
export {
  judgeLink,
  LINK_STATES,
  type LinkCourse,
  type LinkJudgement,
  type LinkState,
  type LinkUsual,
  LOOKS_BACK,
  perSecond,
} from './states.ts';
export { LINK_BOUNDS, LinkTotals } from './totals.ts';
export {
  type LinkTrace,
  LinkTracing,
  type TracedLink,
  type TracedLinks,
} from './traced.ts';
export { type CountedFlow, MOST_WIRES, WireTotals } from './wire.ts';
export { COUNTED, LINK_LABELS, LINK_METRICS } from './wire-names.ts';
