import { CallTroubles } from './callTroubles.ts';
import { hashOf } from './chance.ts';
import { Controllers } from './controllers.ts';
import { Endings } from './endings.ts';
import { Incidents } from './incidents.ts';
import type { Inhabited, WorldOptions } from './inhabited.ts';
import { Laying } from './laying.ts';
import type { ApiObject, Kind } from './objects.ts';
import { iso } from './objects.ts';
import { Readings } from './readings.ts';
import { Rollouts } from './rollouts.ts';
import { scalersSee } from './scalers.ts';
import type { WorkloadPlan } from './scenario/index.ts';
import { type PodParts, podShape } from './shapes/pods.ts';
import { ObjectStore } from './store.ts';
import { LeakRounds } from './stories/leakRounds.ts';
import { Surges } from './surges.ts';

/** One cluster living through its stories. Everything it does follows from the seed, the start and what is asked of it. */
export class World implements Inhabited {
  readonly store: ObjectStore;
  readonly options: WorldOptions;
  readonly seed: string;
  readonly surges: Surges;
  readonly readings: Readings;
  readonly rollouts: Rollouts;
  readonly incidents: Incidents;
  readonly calls: CallTroubles;
  private readonly controllers: Controllers;
  private readonly timers = new Set<NodeJS.Timeout>();
  private readonly retired = new Map<string, number>();
  private readonly plans: ReadonlyMap<string, WorkloadPlan>;
  private numbered = 0;

  constructor(options: WorldOptions, now: number) {
    this.options = options;
    this.seed = `${options.seed} ${options.plan.name}`;
    this.store = new ObjectStore(options.firstVersion);
    this.plans = new Map(options.plan.workloads.map((plan) => [`${plan.namespace}/${plan.name}`, plan]));
    const rounds = new LeakRounds(options.start, options.pace);
    this.surges = new Surges(options);
    this.calls = new CallTroubles(options.start, options.plan.stories.has('leak'));
    this.incidents = new Incidents(this, options.endings ?? new Endings(null));
    this.readings = new Readings(this, rounds, this.surges, this.incidents);
    this.controllers = new Controllers(this);
    this.rollouts = new Rollouts(this);
    new Laying(this, rounds).lay(now);
    scalersSee(this, this.readings, now);
    this.incidents.recall(now);
    this.every(options.heartbeat, () => this.beat());
  }

  close(): void {
    for (const timer of this.timers) clearTimeout(timer);
    this.timers.clear();
  }

  plan(namespace: string, name: string): WorkloadPlan | undefined {
    return this.plans.get(`${namespace}/${name}`);
  }
  planOf(pod: ApiObject): WorkloadPlan | undefined {
    return this.plan(pod.metadata.namespace ?? '', pod.metadata.labels?.['app'] ?? '');
  }
  podsOf(namespace: string, name: string): ApiObject[] {
    return this.store
      .list('pods')
      .filter((pod) => pod.metadata.namespace === namespace && pod.metadata.labels?.['app'] === name);
  }
  addPod({ node, ...parts }: Omit<PodParts, 'seed' | 'node'> & { readonly node?: string }, now: number): ApiObject {
    const { nodes } = this.options.plan;
    const open = nodes.filter(({ name }) => this.incidents.takesPods(name));
    // in this harbour nothing waits for a place
    const takes = open.length > 0 ? open : nodes;
    const place = takes[(hashOf(parts.plan.name) + this.numbered++ * 5) % takes.length]!;
    const pod = podShape({ ...parts, node: node ?? place.name, seed: this.seed });
    this.store.put({ kind: 'pods', object: pod, at: now });
    return pod;
  }
  removePod(pod: ApiObject, at: number): void {
    this.retire(pod, at);
    this.store.remove('pods', pod, at);
  }
  retire(pod: ApiObject, at: number): void {
    const node = pod['spec'].nodeName as string;
    this.retired.set(node, (this.retired.get(node) ?? 0) + this.readings.podCpuSeconds(pod, at));
  }
  spentByGonePods(node: string): number {
    return this.retired.get(node) ?? 0;
  }
  count(namespace: string, name: string, at: number): void {
    this.controllers.count(namespace, name, at);
  }
  change(kind: Kind, namespace: string | undefined, name: string, at: number, edit: (object: ApiObject) => void): void {
    const object = this.store.get(kind, namespace, name);
    if (!object) return;
    const changed = structuredClone(object);
    edit(changed);
    if (JSON.stringify(changed) !== JSON.stringify(object)) this.store.put({ kind, object: changed, at });
  }

  private beat(): void {
    const now = Date.now();
    for (const node of this.store.list('nodes')) {
      if (this.incidents.isLost(node.metadata.name)) continue;
      const changed = structuredClone(node);
      for (const condition of changed['status'].conditions) condition.lastHeartbeatTime = iso(now);
      this.store.put({ kind: 'nodes', object: changed, at: now, heartbeat: true });
    }
  }

  // ---- time ---------------------------------------------------------------------------------------------------

  paced(length: number): number {
    return length / this.options.pace;
  }
  after(delay: number, act: () => void): void {
    const timer = setTimeout(
      () => {
        this.timers.delete(timer);
        act();
      },
      Math.max(0, Math.min(delay, 2 ** 31 - 1)),
    );
    this.timers.add(timer);
  }
  every(period: number, act: () => void): void {
    this.after(period, () => {
      act();
      this.every(period, act);
    });
  }
}
