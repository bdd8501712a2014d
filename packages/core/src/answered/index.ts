export { type Bucket, type Counted, type Latency, latencyOnGrid, ratesOnGrid } from './onGrid.ts';
export { isFailed, mayTellOfRequests, type RequestSource, recogniseRequests, type ServedSeries } from './recognise.ts';
export { BOUND_LABEL } from './wire-names.ts';
