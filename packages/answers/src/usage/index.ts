export { type ClusterUsage, narrowUsage, type SeenUsage, type Window, wholly } from './usage.ts';
export { type Restarted, UsageDetails } from './usageDetails.ts';
