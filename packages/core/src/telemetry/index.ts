export type { Exponential } from './exponential.ts';
export {
  type Accumulated,
  CountedOn,
  NOTHING_YET,
  type PushedPage,
  pushedPage,
  pushedPageBySteps,
} from './pushedPage.ts';
export { type PushedLogs, readLogs, readLogsBySteps } from './readLogs.ts';
export {
  DEFAULT_PUSH_LIMITS,
  type PushedMetrics,
  type PushedResource,
  type PushLimits,
  readMetrics,
  readMetricsBySteps,
} from './readMetrics.ts';
export { type PushedTraces, readSpans, readSpansBySteps } from './readSpans.ts';
export { logsRequest, maskedMetricsBySteps, type Sent, tracesRequest } from './writeRequests.ts';
