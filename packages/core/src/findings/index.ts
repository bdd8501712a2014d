export { autoscalerFindings, claimFindings, quotaFindings, volumeFindings } from './boundFindings.ts';
export { byWeight, type Finding, type Severity, worstSeverity } from './finding.ts';
export { cronJobFindings, jobFindings } from './jobFindings.ts';
export { nodeFindings } from './nodeFindings.ts';
export { hasEnded, isReady, notReadySince, podFindings } from './podFindings.ts';
export { fewerReadySince, workloadFindings } from './workloadFindings.ts';
