export { byWeight, type Finding, type Severity, worstSeverity } from './finding.ts';
export { nodeFindings } from './nodeFindings.ts';
export { hasEnded, isReady, notReadySince, podFindings } from './podFindings.ts';
export { fewerReadySince, workloadFindings } from './workloadFindings.ts';
