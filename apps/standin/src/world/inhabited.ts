import type { Endings } from './endings.ts';
import type { ApiObject, Kind } from './objects.ts';
import type { ClusterPlan, WorkloadPlan } from './scenario/index.ts';
import type { PodParts } from './shapes/pods.ts';
import type { ObjectStore } from './store.ts';

export interface WorldOptions {
  readonly plan: ClusterPlan;
  readonly seed: string;
  /** When the stories begin. */
  readonly start: number;
  /** The stories run this many times faster than in the harbour. */
  readonly pace: number;
  readonly nodePorts: readonly number[];
  readonly firstVersion: number;
  /** Length of a heartbeat in ms; nodes differ by nothing else. */
  readonly heartbeat: number;
  /** What was ended on demand before; when not given, nothing was. */
  readonly endings?: Endings;
}

/** What stories, controllers and readings need of the world they are part of. */
export interface Inhabited {
  readonly store: ObjectStore;
  readonly options: WorldOptions;
  /** Distinguishes everything of this cluster from the others'. */
  readonly seed: string;
  plan(namespace: string, name: string): WorkloadPlan | undefined;
  planOf(pod: ApiObject): WorkloadPlan | undefined;
  podsOf(namespace: string, name: string): ApiObject[];
  addPod(parts: Omit<PodParts, 'seed' | 'node'> & { readonly node?: string }, now: number): ApiObject;
  removePod(pod: ApiObject, at: number): void;
  /** Keeps what a pod has spent, before it ends. */
  retire(pod: ApiObject, at: number): void;
  /** Counts of everything that has to do with a workload, as the cluster's controllers would write them. */
  count(namespace: string, name: string, at: number): void;
  /** A changed copy of an object is put in its place; nothing happens when it is gone. */
  change(kind: Kind, namespace: string | undefined, name: string, at: number, edit: (object: ApiObject) => void): void;
  /** CPU seconds that pods spent on a node before they went: a node's counter never falls. */
  spentByGonePods(node: string): number;
  after(delay: number, act: () => void): void;
  every(period: number, act: () => void): void;
  /** A length of the harbour's own time at this pace. */
  paced(length: number): number;
}
