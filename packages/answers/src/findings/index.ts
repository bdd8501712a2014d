export {
  type Beside,
  type BoundState,
  type ClusterFound,
  clusterFindings,
  eventsOf,
  findingsOfPods,
  type WorkloadState,
  workloadFindingsIn,
} from './clusterFindings.ts';
export { type FixtureFinding, findingsOfFixture } from './fixture.ts';
export { nextDue, runLines } from './runs.ts';
