export { type Census, CensusCount, type CensusSeries, type MetricCount } from './census.ts';
export {
  type Cover,
  type CoverLedger,
  type CoverRow,
  coverLedger,
  coverOf,
  type PageFigures,
  type PageState,
  pageChanges,
  type RunningContainer,
} from './ledger.ts';
