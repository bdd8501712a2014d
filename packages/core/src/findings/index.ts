export { askingFindings } from './asking.ts';
export {
  autoscalerFindings,
  budgetFindings,
  claimFindings,
  quotaFindings,
  volumeFindings,
} from './boundFindings.ts';
export { causedByNodes, type NodeCause } from './causes.ts';
export { apiFindings, nameServiceFindings } from './clusterParts.ts';
export { byWeight, type Finding, type Severity, worstSeverity } from './finding.ts';
export { cronJobFindings, jobFindings } from './jobFindings.ts';
export { nodeFindings } from './nodeFindings.ts';
export { placementInWords, type Room, roomsOf, whyNot } from './placement.ts';
export { podFindings } from './podFindings.ts';
export { hasEnded, isReady, notReadySince } from './podState.ts';
export { fewerReadySince, workloadFindings } from './workloadFindings.ts';
