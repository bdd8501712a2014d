import { shareOf } from './chance.ts';
import type { Inhabited } from './inhabited.ts';
import type { LeakRounds } from './leakRounds.ts';
import { loadAt, loadBetween } from './load.ts';
import type { ApiObject } from './objects.ts';
import { LEAKING, type WorkloadPlan } from './scenario.ts';
import { HELPER, isReady } from './shapes.ts';

export interface Container {
  readonly name: string;
  readonly plan: WorkloadPlan;
  readonly pod: ApiObject;
  readonly runsSince: number;
}

const NODE_AGE = 41 * 86_400_000;

/** What containers and nodes draw at any moment, past ones too: what the endpoints show. */
export class Readings {
  private readonly world: Inhabited;
  private readonly rounds: LeakRounds;
  constructor(world: Inhabited, rounds: LeakRounds) {
    this.world = world;
    this.rounds = rounds;
  }

  /** Lasting containers of a pod that were running at its newest state. */
  containersOf(pod: ApiObject): Container[] {
    const plan = this.world.planOf(pod);
    if (!plan || !isReady(pod)) return [];
    const since = Date.parse(pod['status'].containerStatuses[0].state.running.startedAt);
    const created = Date.parse(pod.metadata.creationTimestamp);
    return [
      { name: plan.name, plan, pod, runsSince: since },
      ...(plan.helper
        ? [
            {
              name: HELPER.name,
              plan: {
                ...plan,
                cpu: { request: '50m', limit: '100m', use: 0.02 },
                memory: { request: '48Mi', limit: '96Mi', use: 38 * 1024 * 1024 },
                throttled: 0,
              },
              pod,
              runsSince: created + 2000,
            },
          ]
        : []),
    ];
  }

  private startedAt(container: Container, at: number): number {
    return container.name === LEAKING.name ? this.rounds.at(at).started : container.runsSince;
  }

  /** Seconds of CPU since the container started. */
  cpuSeconds(container: Container, at: number): number {
    return this.spent(container.pod, container.name, container.plan, this.startedAt(container, at), at);
  }
  private spent(pod: ApiObject, container: string, plan: WorkloadPlan, from: number, at: number): number {
    const swing = plan.throttled ? 0.05 : 1;
    return Math.max(0, plan.cpu.use * loadBetween(`${pod.metadata.uid} ${container}`, from / 1000, at / 1000, swing));
  }
  /** Since the pod came, restarts or not: what its node has spent on it. */
  podCpuSeconds(pod: ApiObject, at: number): number {
    const plan = this.world.planOf(pod);
    if (!plan || pod['status'].phase !== 'Running') return 0;
    return this.spent(pod, plan.name, plan, Date.parse(pod.metadata.creationTimestamp), at);
  }
  throttledSeconds(container: Container, at: number): number {
    return ((container.plan.throttled ?? 0) * (at - this.startedAt(container, at))) / 1000;
  }
  memoryBytes(container: Container, at: number): number {
    const identity = `${container.pod.metadata.uid} ${container.name} memory`;
    if (container.name === LEAKING.name) return this.rounds.memoryAt(at);
    const wobble = 1 + (loadAt(identity, at / 1000) - 1) * 0.25;
    return Math.round((container.plan.memory.use * wobble) / 4096) * 4096;
  }
  nodeCpuSeconds(node: string, at: number): number {
    const pods = this.world.store.list('pods').filter((pod) => pod['spec'].nodeName === node);
    const spent = pods.reduce((sum, pod) => sum + this.podCpuSeconds(pod, at), 0);
    const system = 0.35 * loadBetween(`${node} system`, (this.world.options.start - NODE_AGE) / 1000, at / 1000);
    return spent + this.world.spentByGonePods(node) + system;
  }
  nodeMemoryBytes(node: string, at: number): number {
    const pods = this.world.store.list('pods').filter((pod) => pod['spec'].nodeName === node);
    const used = pods
      .flatMap((pod) => this.containersOf(pod))
      .reduce((sum, container) => sum + this.memoryBytes(container, at), 0);
    return used + 1_450_000_000 + Math.round((shareOf(node) * 4e8) / 4096) * 4096;
  }
}
