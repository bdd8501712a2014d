export {
  type BoundState,
  type ClusterFound,
  clusterFindings,
  judgeOf,
  type WorkloadState,
} from './clusterFindings.ts';
export { type ClusterJudge, type CriticalityOf, criticalityIn } from './judge.ts';
export { linksAtTheirEnds } from './links.ts';
export { nextDue, runLines } from './runs.ts';
