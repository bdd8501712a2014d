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
const grouped = (group: string, kind: string, short: string[], version = 'v1'): KindInfo => ({
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
  deployments: grouped(API_GROUPS.apps, 'Deployment', ['deploy']),
  replicasets: grouped(API_GROUPS.apps, 'ReplicaSet', ['rs']),
  statefulsets: grouped(API_GROUPS.apps, 'StatefulSet', ['sts']),
  daemonsets: grouped(API_GROUPS.apps, 'DaemonSet', ['ds']),
  jobs: grouped(API_GROUPS.batch, 'Job', []),
  cronjobs: grouped(API_GROUPS.batch, 'CronJob', ['cj']),
  endpointslices: grouped(API_GROUPS.discovery, 'EndpointSlice', []),
  horizontalpodautoscalers: grouped(API_GROUPS.autoscaling, 'HorizontalPodAutoscaler', ['hpa'], 'v2'),
  poddisruptionbudgets: grouped(API_GROUPS.policy, 'PodDisruptionBudget', ['pdb']),
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
