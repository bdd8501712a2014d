export {
  type BoundState,
  type ClusterFound,
  clusterFindings,
  type WorkloadState,
  judgeOf,
} from './clusterFindings.ts';
export { type ClusterJudge, type CriticalityOf, criticalityIn } from './judge.ts';
export { nextDue, runLines } from './runs.ts';
