export {
  mappingProblem,
  ownMapping,
  type Role,
  rolesOf,
  VITAL_NAMES,
  type Vital,
  type VitalMapping,
} from './mapping.ts';
export { factorOf, type KnownNames, type Proposal, proposeVitals, type ServedMetric } from './propose.ts';
