import { LANDWARD } from './landward.ts';
import type { ClusterPlan } from './plan.ts';
import { SEAWARD } from './seaward.ts';
import { SLIPWAY } from './slipway.ts';

export { GRANTS, PEOPLE, TEAM_OF, TEAMS } from './people.ts';
export {
  type ClusterPlan,
  DAY,
  Gi,
  HOUR,
  MINUTE,
  NODE_CLASSES,
  type NodePlan,
  REGISTRY,
  type WorkloadPlan,
} from './plan.ts';
export { BAD_RELEASE, LEAKING } from './seaward.ts';
export const CLUSTERS: readonly ClusterPlan[] = [SEAWARD, LANDWARD, SLIPWAY];
