import type { SourcesAnswer } from '@zetopsis/contract';

/** A store with which nothing is the matter. */
export const calmStore: SourcesAnswer['store'] = {
  series: 0,
  waiting: 0,
  waitingBytes: 0,
  problem: null,
  problemSince: null,
  heldBy: null,
  lost: 0,
  tooOld: 0,
  doubledSame: 0,
  doubledOther: 0,
  refusedSeries: 0,
  packing: null,
  space: null,
};
