import { API_GROUPS } from '../wire-names.ts';

/** The usual JSON shape of a cluster API's objects, as far as the stand-in fills it. */
export const KINDS = [
  'nodes',
  'namespaces',
  'pods',
  'events',
  'services',
  'persistentvolumes',
  'persistentvolumeclaims',
  'resourcequotas',
  'limitranges',
  'configmaps',
  'secrets',
  'deployments',
  'replicasets',
  'statefulsets',
  'daemonsets',
  'jobs',
  'cronjobs',
  'endpointslices',
  'horizontalpodautoscalers',
  'poddisruptionbudgets',
] as const;
export type Kind = (typeof KINDS)[number];

interface Meta {
  name: string;
  namespace?: string;
  uid: string;
  resourceVersion: string;
  generation?: number;
  creationTimestamp: string;
  deletionTimestamp?: string;
  labels?: Record<string, string>;
  managedFields?: {
    manager: string;
    operation: 'Update' | 'Apply';
    apiVersion: string;
    time: string;
    subresource?: string;
  }[];
  annotations?: Record<string, string>;
  ownerReferences?: {
    apiVersion: string;
    kind: string;
    name: string;
    uid: string;
    controller: boolean;
    blockOwnerDeletion: boolean;
  }[];
}
export interface ApiObject {
  metadata: Meta;
  // biome-ignore lint/suspicious/noExplicitAny: open JSON, shaped by kind; the stand-in only ever writes it
  [field: string]: any;
}

export interface KindInfo {
  /** '' is the core group. */
  readonly group: string;
  readonly version: string;
  readonly kind: string;
  readonly singular: string;
  readonly short: readonly string[];
  readonly namespaced: boolean;
}
const core = (kind: string, short: string[], namespaced = true): KindInfo => ({
  group: '',
  version: 'v1',
  kind,
  singular: kind.toLowerCase(),
  short,
  namespaced,
});
const grouped = ({
  group,
  kind,
  short,
  version = 'v1',
}: {
  readonly group: string;
  readonly kind: string;
  readonly short: string[];
  readonly version?: string;
}): KindInfo => ({
  ...core(kind, short),
  group,
  version,
});
export const KIND_INFO: Readonly<Record<Kind, KindInfo>> = {
  nodes: core('Node', ['no'], false),
  namespaces: core('Namespace', ['ns'], false),
  pods: core('Pod', ['po']),
  events: core('Event', ['ev']),
  services: core('Service', ['svc']),
  persistentvolumes: core('PersistentVolume', ['pv'], false),
  persistentvolumeclaims: core('PersistentVolumeClaim', ['pvc']),
  resourcequotas: core('ResourceQuota', ['quota']),
  limitranges: core('LimitRange', ['limits']),
  configmaps: core('ConfigMap', ['cm']),
  secrets: core('Secret', []),
  deployments: grouped({ group: API_GROUPS.apps, kind: 'Deployment', short: ['deploy'] }),
  replicasets: grouped({ group: API_GROUPS.apps, kind: 'ReplicaSet', short: ['rs'] }),
  statefulsets: grouped({ group: API_GROUPS.apps, kind: 'StatefulSet', short: ['sts'] }),
  daemonsets: grouped({ group: API_GROUPS.apps, kind: 'DaemonSet', short: ['ds'] }),
  jobs: grouped({ group: API_GROUPS.batch, kind: 'Job', short: [] }),
  cronjobs: grouped({ group: API_GROUPS.batch, kind: 'CronJob', short: ['cj'] }),
  endpointslices: grouped({ group: API_GROUPS.discovery, kind: 'EndpointSlice', short: [] }),
  horizontalpodautoscalers: grouped({
    group: API_GROUPS.autoscaling,
    kind: 'HorizontalPodAutoscaler',
    short: ['hpa'],
    version: 'v2',
  }),
  poddisruptionbudgets: grouped({ group: API_GROUPS.policy, kind: 'PodDisruptionBudget', short: ['pdb'] }),
};
export const groupVersionOf = (kind: Kind): string => {
  const { group, version } = KIND_INFO[kind];
  return group === '' ? version : `${group}/${version}`;
};
export const iso = (at: number): string => `${new Date(at).toISOString().slice(0, 19)}Z`;

/** Who wrote an object, as the API keeps it. */
export const managed = (manager: string, at: number) => ({
  manager,
  operation: 'Update' as const,
  apiVersion: 'v1',
  time: iso(at),
});
