import type { ApiObject } from './objects.ts';
import type { WorkloadPlan } from './scenario.ts';
import type { ObjectStore } from './store.ts';

/** What stories and readings need of the world they are part of. */
export interface Inhabited {
  readonly store: ObjectStore;
  readonly options: { readonly start: number };
  planOf(pod: ApiObject): WorkloadPlan | undefined;
  podsOf(namespace: string, name: string): ApiObject[];
  spentByGonePods(node: string): number;
  count(namespace: string, name: string, at: number): void;
  after(delay: number, act: () => void): void;
}
