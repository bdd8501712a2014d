export {
  HOST_VITAL_NAMES,
  type HostVital,
  isHostVital,
  ownHostMapping,
  proposeHostVitals,
} from './hostVitals.ts';
export { mappingProblem, ownMapping, type Role, rolesOf, type VitalMapping } from './mapping.ts';
export { factorOf, type KnownNames, type Proposal, proposeVitals, type ServedMetric } from './propose.ts';
export { VITAL_NAMES, type Vital, type VitalDefinition, type VitalOf, type VitalsOf, vitalOf } from './vitals.ts';
export { HOST_LABELS, VITAL_LABELS } from './wire-names.ts';
