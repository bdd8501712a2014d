export { type Bucket, type Counted, type Latency, latencyOnGrid, ratesOnGrid } from './onGrid.ts';
export {
  type OperationFigures,
  type OperationsTold,
  type OperationTold,
  operationsOf,
  type RequestFigures,
} from './operations.ts';
export {
  failedBy,
  isFailed,
  mayTellOfRequests,
  type RequestSource,
  recogniseRequests,
  type ServedSeries,
} from './recognise.ts';
export { type PodAnswered, type Spread, spreadOf } from './spread.ts';
export { BOUND_LABEL } from './wire-names.ts';
