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
export { deletionFindings } from './deletion.ts';
export { byWeight, type Finding, SEVERITIES, type Severity, worstSeverity } from './finding.ts';
export { cronJobFindings, jobFindings, type Run } from './jobFindings.ts';
export { FINDING_CODES, FINDINGS, type FindingCode, isUnfit } from './kinds.ts';
export { CLOCK_AHEAD, type NodeMeasured, nodeFindings } from './nodeFindings.ts';
export { placementInWords, type Room, roomsOf, whyNot } from './placement.ts';
export { podFindings } from './podFindings.ts';
export { NOTHING_SAID, type Said } from './said.ts';
export { schedulerInWords } from './schedulerWords.ts';
export { fewerReadySince, workloadFindings } from './workloadFindings.ts';
