export { type AnsweredLines, type Answering, answeringFindings, answeringOf } from './answering.ts';
export { askingFindings } from './asking.ts';
export {
  autoscalerFindings,
  budgetFindings,
  claimFindings,
  NEARLY,
  quotaFindings,
  volumeFindings,
  wantedPods,
} from './boundFindings.ts';
export { causedByNodes, isLost, type NodeCause } from './causes.ts';
export { apiFindings, nameServiceFindings } from './clusterParts.ts';
export { type CriticalityWords, criticalities, type ToldCriticality } from './criticality.ts';
export { deletionFindings } from './deletion.ts';
export { CRITICALITIES, type Criticality, type Effect, weighed } from './effect.ts';
export { byWeight, type Finding, SEVERITIES, type Severity, worstSeverity } from './finding.ts';
export { cronJobFindings, jobFindings, type Run } from './jobFindings.ts';
export { FINDING_CODES, FINDINGS, type FindingCode, isShort, isUnfit } from './kinds.ts';
export { blamedEnd, isOfLinks, linkFinding, type TroubledLink } from './linkFindings.ts';
export { CLOCK_AHEAD, type NodeMeasured, nodeFindings } from './nodeFindings.ts';
export { placementInWords, type Room, roomsOf, whyNot } from './placement.ts';
export { type Around, podFindings } from './podFindings.ts';
export { NOTHING_SAID, type Said } from './said.ts';
export { saturationFindings, type UsedPod } from './saturation.ts';
export { schedulerInWords } from './schedulerWords.ts';
export { fewerReadySince, workloadFindings } from './workloadFindings.ts';
