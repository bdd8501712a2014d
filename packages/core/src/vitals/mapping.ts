import { metricOf, type Vital, type VitalOf, vitalOf } from './vitals.ts';
import { VITAL_LABELS } from './wire-names.ts';

/** What a label of a vital's series names. A pod is named by its uid, or by namespace and name. */
export type ClusterRole = 'namespace' | 'pod' | 'podUid' | 'container' | 'node' | 'claim' | 'direction';
export type Role = ClusterRole | HostRole;
/** Of a machine outside clusters: what its processors do, which of them, what memory and files are taken for, where files are. */
type HostRole = 'mode' | 'processor' | 'state' | 'mount';

/** Under which name, labels and unit a cluster has a vital. */
export interface VitalMapping {
  readonly metric: string;
  readonly labels: Readonly<Partial<Record<Role, string>>>;
  /** Only series with these labels count. */
  readonly where: Readonly<Record<string, string>>;
  /** What a sample is multiplied by to be in seconds or bytes. */
  readonly factor: number;
}

const ROLES_OF: Readonly<Record<VitalOf, readonly ClusterRole[]>> = {
  container: ['namespace', 'podUid', 'container'],
  pod: ['namespace', 'podUid'],
  volume: ['namespace', 'podUid', 'claim'],
  node: ['node'],
};
/** What a vital's series must be told apart by, whatever they are called. */
export function rolesOf(vital: Vital): readonly ClusterRole[] {
  const { of, directed = false } = vitalOf(vital);
  return [...ROLES_OF[of], ...(directed ? (['direction'] as const) : [])];
}

/** Our own names: the open telemetry semantic conventions. */
export const ownMapping = (vital: Vital): VitalMapping => ({
  metric: metricOf(vital),
  labels: Object.fromEntries(rolesOf(vital).map((role) => [role, VITAL_LABELS[role as keyof typeof VITAL_LABELS]])),
  where: {},
  factor: 1,
});

/** Null when the mapping names everything the vital is told apart by, else what is missing. */
export function mappingProblem(vital: Vital, { labels, factor }: VitalMapping): string | null {
  for (const role of rolesOf(vital)) {
    if (role === 'podUid' || role === 'namespace') {
      const named = labels.podUid !== undefined || (labels.namespace !== undefined && labels.pod !== undefined);
      if (!named) return 'a pod is named by its uid, or by namespace and name';
    } else if (labels[role] === undefined) return `the label that names the ${role} is missing`;
  }
  return factor > 0 && Number.isFinite(factor) ? null : 'what a sample is multiplied by is more than 0';
}
