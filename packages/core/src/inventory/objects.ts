import type { Bytes, Cores, EpochMs } from '../units/index.ts';

export interface OwnerRef {
  readonly kind: string;
  readonly name: string;
  readonly uid: string;
}

interface Common {
  readonly uid: string;
  readonly name: string;
  /** Null for what belongs to no namespace. */
  readonly namespace: string | null;
  readonly createdAt: EpochMs;
  /** Set while the cluster is taking the object down. */
  readonly deletingSince: EpochMs | null;
  readonly labels: Readonly<Record<string, string>>;
  readonly owner: OwnerRef | null;
}

export interface Condition {
  readonly type: string;
  readonly status: 'true' | 'false' | 'unknown';
  readonly reason: string;
  readonly message: string;
  readonly since: EpochMs | null;
}

export interface NodeObject extends Common {
  readonly kind: 'node';
  readonly allocatable: { readonly cpu: Cores | null; readonly memory: Bytes | null; readonly pods: number | null };
  readonly acceptsPods: boolean;
  readonly zone: string | null;
  readonly nodeClass: string | null;
  /** Where the node's own page is read: address inside the cluster and port. */
  readonly address: string | null;
  readonly port: number | null;
  readonly conditions: readonly Condition[];
}

export interface NamespaceObject extends Common {
  readonly kind: 'namespace';
  readonly phase: string;
  /** Teams may be told by them. */
  readonly annotations: Readonly<Record<string, string>>;
}

/** A main container does the pod's work; a helper runs beside it; a start-up container ends before it begins. */
export type ContainerRole = 'main' | 'helper' | 'start-up';

export interface Amounts {
  readonly cpuRequest: Cores | null;
  readonly cpuLimit: Cores | null;
  readonly memoryRequest: Bytes | null;
  readonly memoryLimit: Bytes | null;
}

export interface ContainerEnd {
  readonly reason: string;
  readonly message: string;
  readonly exitCode: number | null;
  readonly signal: number | null;
  readonly startedAt: EpochMs | null;
  readonly endedAt: EpochMs | null;
}

export type ContainerState =
  | { readonly is: 'waiting'; readonly reason: string; readonly message: string }
  | { readonly is: 'running'; readonly since: EpochMs | null }
  | ({ readonly is: 'ended' } & ContainerEnd)
  | { readonly is: 'unknown' };

export interface ContainerObject extends Amounts {
  readonly name: string;
  readonly role: ContainerRole;
  readonly image: string;
  readonly ports: readonly number[];
  readonly ready: boolean;
  readonly restarts: number;
  readonly state: ContainerState;
  readonly lastEnd: ContainerEnd | null;
}

export interface PodObject extends Common {
  readonly kind: 'pod';
  readonly phase: 'pending' | 'running' | 'succeeded' | 'failed' | 'unknown';
  readonly reason: string;
  readonly message: string;
  readonly node: string | null;
  readonly overhead: { readonly cpu: Cores; readonly memory: Bytes };
  readonly containers: readonly ContainerObject[];
  readonly conditions: readonly Condition[];
}

export type WorkloadKind = 'deployment' | 'stateful set' | 'daemon set' | 'job' | 'replica set' | 'lone pod' | 'other';

/** A deployment, daemon set or replica set; counts are the object's own, never inferred. */
export interface WorkloadObject extends Common {
  readonly kind: 'deployment' | 'daemon set' | 'replica set';
  readonly desired: number;
  /** Pods that exist for it, whatever their state. */
  readonly present: number;
  readonly ready: number;
  readonly updated: number;
  readonly available: number;
  readonly paused: boolean;
  /** The cluster has looked at the newest wish. */
  readonly observed: boolean;
  readonly images: readonly { readonly container: string; readonly image: string }[];
  readonly revision: string | null;
  readonly conditions: readonly Condition[];
}

export type InventoryObject = NodeObject | NamespaceObject | PodObject | WorkloadObject;
export type InventoryKind = InventoryObject['kind'];
export const INVENTORY_KINDS: readonly InventoryKind[] = [
  'node',
  'namespace',
  'deployment',
  'replica set',
  'daemon set',
  'pod',
];

/** Something the cluster itself said about one of its objects. */
export interface ClusterEvent {
  readonly uid: string;
  readonly namespace: string | null;
  readonly about: { readonly kind: string; readonly name: string; readonly uid: string };
  readonly type: 'normal' | 'warning';
  readonly reason: string;
  readonly message: string;
  readonly count: number;
  readonly firstAt: EpochMs;
  readonly lastAt: EpochMs;
}
