/** The usual JSON shape of a cluster API's objects, as far as the stand-in fills it. */
export type Kind = 'nodes' | 'namespaces' | 'pods' | 'events' | 'deployments' | 'replicasets' | 'daemonsets';
export const KINDS: readonly Kind[] = [
  'nodes',
  'namespaces',
  'pods',
  'events',
  'deployments',
  'replicasets',
  'daemonsets',
];

interface Meta {
  name: string;
  namespace?: string;
  uid: string;
  resourceVersion: string;
  generation?: number;
  creationTimestamp: string;
  deletionTimestamp?: string;
  labels?: Record<string, string>;
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
  readonly group: '' | 'apps';
  readonly kind: string;
  readonly singular: string;
  readonly short: readonly string[];
  readonly namespaced: boolean;
}
export const KIND_INFO: Readonly<Record<Kind, KindInfo>> = {
  nodes: { group: '', kind: 'Node', singular: 'node', short: ['no'], namespaced: false },
  namespaces: { group: '', kind: 'Namespace', singular: 'namespace', short: ['ns'], namespaced: false },
  pods: { group: '', kind: 'Pod', singular: 'pod', short: ['po'], namespaced: true },
  events: { group: '', kind: 'Event', singular: 'event', short: ['ev'], namespaced: true },
  deployments: { group: 'apps', kind: 'Deployment', singular: 'deployment', short: ['deploy'], namespaced: true },
  replicasets: { group: 'apps', kind: 'ReplicaSet', singular: 'replicaset', short: ['rs'], namespaced: true },
  daemonsets: { group: 'apps', kind: 'DaemonSet', singular: 'daemonset', short: ['ds'], namespaced: true },
};
export const apiVersionOf = (kind: Kind): string =>
  KIND_INFO[kind].group === '' ? 'v1' : `${KIND_INFO[kind].group}/v1`;
export const iso = (at: number): string => `${new Date(at).toISOString().slice(0, 19)}Z`;
