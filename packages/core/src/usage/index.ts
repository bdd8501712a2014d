export {
  type Grid,
  gridEnd,
  gridFor,
  gridTime,
  latestOnGrid,
  percentile,
  perSecondOnGrid,
  stalenessOf,
} from './grid.ts';
export { amountsOf, podAmounts } from './podAmounts.ts';
export {
  byTightness,
  type ContainerVital,
  type NodeSpan,
  type NodeVital,
  nodeUsage,
  type PodSpan,
  type ResourceUsage,
  type UsageInput,
  type UsageLevel,
  type UsageLines,
  type UsageNode,
  usageTree,
} from './usageTree.ts';
export { VITAL_LABELS, VITALS } from './wire-names.ts';
