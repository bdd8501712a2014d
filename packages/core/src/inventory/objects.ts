import type { Bytes, Cores, EpochMs } from '../units/index.ts';
import type { ContainerHints } from './containerHints.ts';

export interface OwnerRef {
  readonly kind: string;
  readonly name: string;
  readonly uid: string;
}

/** Who last changed what an object asks for, where the cluster keeps it; not who only reported its state. */
export interface LastChange {
  readonly who: string;
  readonly at: EpochMs;
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
  /** Who has to let go before it is deleted. Not in states kept by earlier versions, nor where there are none. */
  readonly finalizers?: readonly string[];
  readonly changedBy: LastChange | null;
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
  /** Who is kept off. Not in states kept by earlier versions. */
  readonly taints?: readonly Taint[];
}

export interface Taint {
  readonly key: string;
  readonly value: string;
  readonly effect: string;
}
/** An empty key or effect stands for every one. */
export interface Toleration extends Taint {
  readonly operator: string;
}

export interface NamespaceObject extends Common {
  readonly kind: 'namespace';
  readonly phase: string;
  /** What its deletion waits for. Not in states kept by earlier versions. */
  readonly conditions?: readonly Condition[];
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
  /** Of each port; empty where it has none. Not in states kept by earlier versions. */
  readonly portNames?: readonly string[];
  readonly ready: boolean;
  readonly restarts: number;
  readonly state: ContainerState;
  readonly lastEnd: ContainerEnd | null;
  /** Its start check was passed, if it has one. Neither is in states kept by earlier versions. */
  readonly started?: boolean | null;
  /** What its arguments and mounts say of its purpose; neither is in states kept by earlier versions. */
  readonly hints?: ContainerHints;
  /** Its checks in words: "GET /ready at port 8080, every 10 s". */
  readonly checks?: { readonly ready?: string; readonly live?: string; readonly start?: string };
}

/** Objects of the same namespace that a pod reads or mounts, by name. */
export interface Uses {
  readonly configMaps: readonly string[];
  readonly secrets: readonly string[];
  readonly claims: readonly string[];
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
  /** The pod's own volumes that come from a claim: the name inside the pod, and the claim's. */
  readonly volumes: readonly { readonly name: string; readonly claim: string }[];
  /** Inside the cluster; null until it has one. Neither is in states kept by earlier versions. */
  readonly address?: string | null;
  readonly annotations?: Readonly<Record<string, string>>;
  /** On which nodes it may stand, as far as it is told by labels and tolerations. */
  readonly placing?: {
    readonly selector: Readonly<Record<string, string>>;
    readonly tolerations: readonly Toleration[];
  };
}

export const WORKLOAD_KINDS = [
  'deployment',
  'stateful set',
  'daemon set',
  'job',
  'cron job',
  'replica set',
  'lone pod',
  'other',
] as const;
export type WorkloadKind = (typeof WORKLOAD_KINDS)[number];

/** What keeps pods running; counts are the object's own, never inferred. */
export interface WorkloadObject extends Common {
  readonly kind: 'deployment' | 'stateful set' | 'daemon set' | 'replica set';
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
  readonly uses: Uses;
  /** How many may be away, and how many more there may be, while it is renewed: numbers or shares. Not in states kept by earlier versions. */
  readonly strategy?: { readonly away: string | null; readonly more: string | null };
}

/** Pods that run to an end; one run of a cron job is a job it owns. */
export interface JobObject extends Common {
  readonly kind: 'job';
  readonly outcome: 'waiting' | 'running' | 'succeeded' | 'failed' | 'suspended';
  /** Why it failed, as the cluster says it. */
  readonly reason: string;
  readonly message: string;
  readonly startedAt: EpochMs | null;
  readonly endedAt: EpochMs | null;
  readonly completions: number;
  readonly active: number;
  readonly succeeded: number;
  /** Pods of it that failed: tries beyond the first. */
  readonly failed: number;
  readonly retriesAllowed: number;
  readonly images: WorkloadObject['images'];
  readonly uses: Uses;
}

export interface CronJobObject extends Common {
  readonly kind: 'cron job';
  readonly schedule: string;
  /** Name of the time zone the schedule is meant in; null: the cluster's own. */
  readonly zone: string | null;
  readonly suspended: boolean;
  readonly running: number;
  readonly lastDueAt: EpochMs | null;
  readonly lastSucceededAt: EpochMs | null;
  readonly images: WorkloadObject['images'];
  readonly uses: Uses;
}

export interface ServiceObject extends Common {
  readonly kind: 'service';
  readonly type: string;
  readonly selector: Readonly<Record<string, string>>;
  readonly ports: readonly {
    readonly name: string;
    readonly port: number;
    readonly target: string;
    readonly protocol: string;
    /** At every node's address; null where there is none. Not in states kept by earlier versions. */
    readonly nodePort?: number | null;
  }[];
  readonly address: string | null;
  /** Where it answers from outside: addresses that somebody gave it, or a balancer did. Not in states kept by earlier versions. */
  readonly outside?: readonly string[];
  /** Not in states kept by earlier versions. */
  readonly annotations?: Readonly<Record<string, string>>;
}

/** Where a service's calls go: addresses of pods, ready or not. */
export interface EndpointSliceObject extends Common {
  readonly kind: 'endpoint slice';
  readonly service: string | null;
  readonly ports: readonly { readonly name: string; readonly port: number | null }[];
  readonly endpoints: readonly {
    readonly address: string;
    readonly ready: boolean;
    readonly pod: string | null;
    readonly node: string | null;
  }[];
}

export interface VolumeObject extends Common {
  readonly kind: 'persistent volume';
  readonly capacity: Bytes | null;
  readonly phase: string;
  readonly claim: { readonly namespace: string; readonly name: string } | null;
  readonly storageClass: string;
  readonly reclaim: string;
}
export interface ClaimObject extends Common {
  readonly kind: 'volume claim';
  readonly phase: string;
  readonly volume: string | null;
  readonly requested: Bytes | null;
  readonly capacity: Bytes | null;
  readonly storageClass: string;
}

/** Resource names are the cluster's own: "requests.cpu", "pods", "limits.memory". */
export interface QuotaObject extends Common {
  readonly kind: 'quota';
  readonly rows: readonly { readonly resource: string; readonly hard: number; readonly used: number | null }[];
}
export interface LimitRangeObject extends Common {
  readonly kind: 'limit range';
  readonly rows: readonly {
    readonly of: string;
    readonly resource: string;
    readonly least: string | null;
    readonly most: string | null;
    readonly request: string | null;
    readonly limit: string | null;
  }[];
}
/** A figure that an autoscaler follows, and where it is to be: % of requests for a share, else in units of its own. */
export interface Followed {
  readonly name: string;
  readonly value: number;
  readonly aim: number;
  readonly share: boolean;
}
export interface AutoscalerObject extends Common {
  readonly kind: 'autoscaler';
  readonly target: { readonly kind: string; readonly name: string };
  readonly least: number;
  readonly most: number;
  readonly current: number;
  readonly desired: number;
  readonly lastScaledAt: EpochMs | null;
  /** What it follows, in words: "cpu at 70 % of requests". */
  readonly follows: readonly string[];
  /** What it saw last of what it follows. Figures of the moment: they change without anything having happened. */
  readonly seen?: readonly Followed[];
  readonly conditions: readonly Condition[];
}
export interface DisruptionBudgetObject extends Common {
  readonly kind: 'disruption budget';
  readonly selector: Readonly<Record<string, string>>;
  readonly leastAvailable: string | null;
  readonly mostUnavailable: string | null;
  readonly healthy: number;
  readonly wanted: number;
  readonly allowed: number;
}

/** Values are never kept: each key has a fingerprint, which tells only whether it changed. */
export interface ConfigMapObject extends Common {
  readonly kind: 'config map';
  readonly keys: Readonly<Record<string, string>>;
}
/** Nothing but that it is there and that it changed. */
export interface SecretObject extends Common {
  readonly kind: 'secret';
  readonly version: string;
}

export type InventoryObject =
  | NodeObject
  | NamespaceObject
  | PodObject
  | WorkloadObject
  | JobObject
  | CronJobObject
  | ServiceObject
  | EndpointSliceObject
  | VolumeObject
  | ClaimObject
  | QuotaObject
  | LimitRangeObject
  | AutoscalerObject
  | DisruptionBudgetObject
  | ConfigMapObject
  | SecretObject;
export type InventoryKind = InventoryObject['kind'];

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
