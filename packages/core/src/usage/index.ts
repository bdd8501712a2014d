export { type Compared, type ComparedBoth, comparedOf, comparedPerPod, perPodLine } from './compare.ts';
export { flowOnGrid, levelOnGrid } from './flows.ts';
export {
  fullIn,
  type Grid,
  gridEnd,
  gridFor,
  gridTime,
  latestOnGrid,
  perSecondOnGrid,
  presenceOn,
  RATE_INTERVALS,
} from './grid.ts';
export { type HostSamples, hostUsage } from './hostUsage.ts';
export { groupOf, narrowTree, OTHERS, shareOf } from './narrowTree.ts';
export { podKeyOnNode, podsByNode } from './nodeParts.ts';
export {
  boundBy,
  figuresOf,
  figuresOfCount,
  linesAgainst,
  linesOfSeries,
  presenceLines,
  SummedTree,
  sumOfLines,
} from './otherUsage.ts';
export { type ProcessSeries, type ProcessUsage, processesAt } from './processes.ts';
export {
  byTightness,
  emptyNode,
  type LimitKind,
  type ResourceUsage,
  type UsageLevel,
  type UsageLines,
  type UsageNode,
} from './usageNode.ts';
export {
  type ContainerVital,
  groupBy,
  growTree,
  machinesUse,
  type NodeSpan,
  type NodeVital,
  nodeUsage,
  type PodSpan,
  placedOn,
  type TreeInput,
  type UsageInput,
  usageTree,
} from './usageTree.ts';
export { type VolumeSamples, type VolumeUsage, volumeUsage } from './volumes.ts';
export {
  PROCESS_LABELS,
  PROCESS_METRICS,
  USED_STATE,
} from './wire-names.ts';
