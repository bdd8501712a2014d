import { hashOf, shareOf } from './chance.ts';
import { amount } from './controllers.ts';
import type { Incidents } from './incidents.ts';
import type { Inhabited } from './inhabited.ts';
import { loadAt, loadBetween } from './load.ts';
import type { ApiObject } from './objects.ts';
import { Gi, HOUR, LEAKING, NODE_CLASSES, type WorkloadPlan } from './scenario/index.ts';
import { HELPER, isReady } from './shapes/pods.ts';
import type { LeakRounds } from './stories/leakRounds.ts';
import type { Surges } from './surges.ts';

export interface Container {
  readonly name: string;
  readonly plan: WorkloadPlan;
  readonly pod: ApiObject;
  readonly runsSince: number;
  readonly helper: boolean;
}

const NODE_AGE = 41 * 86_400_000;
/** As near to its limit as a throttled container comes. */
const AT_LIMIT = 0.98;
/** Requests that a second of CPU time answers. */
const REQUESTS = 40;
/** Bytes of a file system for each entry it has room for. */
const BYTES_PER_ENTRY = 16_384;
/** What runs on every node beside pods: cores and bytes as usual, threads, open files. */
const NODE_PROCESSES = [
  { name: 'node-agent', cpu: 0.16, memory: 118_000_000, threads: 21, files: 160 },
  { name: 'container-runner', cpu: 0.11, memory: 92_000_000, threads: 34, files: 240 },
  { name: 'time-keeper', cpu: 0.002, memory: 5_400_000, threads: 1, files: 12 },
] as const;

export interface ProcessReading {
  readonly name: string;
  readonly pid: number;
  readonly cpuSeconds: number;
  readonly memory: number;
  readonly threads: number;
  readonly files: number;
}

/** What containers, pods, volumes and nodes draw at any moment, past ones too: what the endpoints show. */
export class Readings {
  private readonly world: Inhabited;
  private readonly rounds: LeakRounds;
  private readonly surges: Surges;
  private readonly incidents: Incidents;
  constructor(world: Inhabited, rounds: LeakRounds, surges: Surges, incidents: Incidents) {
    this.world = world;
    this.rounds = rounds;
    this.surges = surges;
    this.incidents = incidents;
  }

  /** Lasting containers of a pod that were running at its newest state. */
  containersOf(pod: ApiObject): Container[] {
    const plan = this.world.planOf(pod);
    const running = pod['status'].containerStatuses?.[0]?.state?.running;
    if (!plan || !running || !isReady(pod)) return [];
    const created = Date.parse(pod.metadata.creationTimestamp);
    return [
      { name: plan.name, plan, pod, runsSince: Date.parse(running.startedAt), helper: false },
      ...(plan.helper
        ? [
            {
              name: HELPER.name,
              plan: {
                ...plan,
                cpu: { request: '50m', limit: '100m', use: 0.02 },
                memory: { request: '48Mi', limit: '96Mi', use: 38 * 1024 * 1024 },
              },
              pod,
              runsSince: created + 2000,
              helper: true,
            },
          ]
        : []),
    ];
  }

  private leaks(container: Container): boolean {
    return (
      !container.helper &&
      container.plan.name === LEAKING.name &&
      container.plan.namespace === LEAKING.namespace &&
      this.world.options.plan.stories.has('leak')
    );
  }
  private startedAt(container: Container, at: number): number {
    return this.leaks(container) ? this.rounds.at(at).started : container.runsSince;
  }

  /** What a container asks for at a factor of load, and what of it the limit lets through. */
  private rate(plan: WorkloadPlan, helper: boolean, factor: number): { used: number; throttled: number } {
    const wanted = plan.cpu.use * (helper ? 1 : factor);
    const limit = plan.cpu.limit === null ? Number.POSITIVE_INFINITY : amount(plan.cpu.limit);
    if (wanted <= AT_LIMIT * limit) return { used: wanted, throttled: 0 };
    return { used: AT_LIMIT * limit, throttled: Math.min(0.9, (wanted - AT_LIMIT * limit) / limit + 0.22) };
  }
  /** Seconds of CPU since the container started. */
  cpuSeconds(container: Container, at: number): number {
    return this.spent(container, this.startedAt(container, at), at);
  }
  private spent({ pod, name, plan, helper }: Omit<Container, 'runsSince'>, from: number, at: number): number {
    if (at <= from) return 0;
    const identity = `${pod.metadata.uid} ${name}`;
    return this.surges.pieces({ namespace: plan.namespace, name: plan.name, from, to: at }).reduce((sum, piece) => {
      const { used, throttled } = this.rate(plan, helper, piece.factor);
      // what runs at its limit hardly moves
      const swing = throttled > 0 ? 0.05 : 1;
      return (
        sum + Math.max(0, used * loadBetween({ identity, from: piece.from / 1000, to: piece.to / 1000, scale: swing }))
      );
    }, 0);
  }
  /** Requests it answered since it started: those it had room for, and those answered while it was throttled. */
  requests(container: Container, at: number): { calm: number; strained: number } {
    const { plan, helper, pod, name } = container;
    const from = this.startedAt(container, at);
    const answered = { calm: 0, strained: 0 };
    if (at <= from || helper) return answered;
    for (const piece of this.surges.pieces({ namespace: plan.namespace, name: plan.name, from, to: at })) {
      const { throttled } = this.rate(plan, helper, piece.factor);
      const kind = throttled > 0 ? 'strained' : 'calm';
      answered[kind] += REQUESTS * this.spent({ pod, name, plan, helper }, piece.from, piece.to);
    }
    return answered;
  }
  /** Since the pod came, restarts or not: what its node has spent on it. */
  podCpuSeconds(pod: ApiObject, at: number): number {
    const plan = this.world.planOf(pod);
    if (!plan || pod['status'].phase !== 'Running') return 0;
    return this.spent({ pod, name: plan.name, plan, helper: false }, Date.parse(pod.metadata.creationTimestamp), at);
  }
  throttledSeconds(container: Container, at: number): number {
    const { plan, helper } = container;
    const from = this.startedAt(container, at);
    if (at <= from) return 0;
    return this.surges
      .pieces({ namespace: plan.namespace, name: plan.name, from, to: at })
      .reduce(
        (sum, piece) => sum + (this.rate(plan, helper, piece.factor).throttled * (piece.to - piece.from)) / 1000,
        0,
      );
  }
  memoryBytes(container: Container, at: number): number {
    const identity = `${container.pod.metadata.uid} ${container.name} memory`;
    if (this.leaks(container)) return this.rounds.memoryAt(at);
    const { plan } = container;
    const wobble = 1 + (loadAt(identity, at / 1000) - 1) * 0.25;
    const factor = container.helper ? 1 : this.surges.factorAt(plan.namespace, plan.name, at);
    const usual = plan.memory.use * wobble * (1 + 0.15 * (factor - 1));
    const limit = plan.memory.limit === null ? Number.POSITIVE_INFINITY : amount(plan.memory.limit);
    const share = container.helper ? 0 : this.incidents.leakedShare(plan, container.runsSince, at);
    // without a limit nothing leaks, and nothing times no end is no number
    const leaked = share === 0 ? 0 : share * (limit - usual);
    return Math.round(Math.min(usual + leaked, 0.995 * limit) / 4096) * 4096;
  }

  // ---- network, file systems, volumes -----------------------------------------------------------------------------

  /** Bytes a pod received or sent since it came. */
  networkBytes(pod: ApiObject, direction: 'receive' | 'transmit', at: number): number {
    const plan = this.world.planOf(pod);
    if (!plan) return 0;
    const usual = (plan.traffic ?? 8000 + (hashOf(plan.name) % 60_000)) * (direction === 'receive' ? 1 : 1.7);
    const identity = `${pod.metadata.uid} ${direction}`;
    return Math.round(
      this.surges
        .pieces({
          namespace: plan.namespace,
          name: plan.name,
          from: Date.parse(pod.metadata.creationTimestamp),
          to: at,
        })
        .reduce(
          (sum, { from, to, factor }) =>
            sum + usual * factor * loadBetween({ identity, from: from / 1000, to: to / 1000 }),
          0,
        ),
    );
  }
  /** The container's own writable layer and logs: grows slowly, is cut, grows again. */
  fileBytes(container: Container, at: number): number {
    const identity = `${container.pod.metadata.uid} ${container.name} files`;
    const turn = 6 * HOUR;
    const share = ((at + shareOf(identity) * turn) % turn) / turn;
    return Math.round(((40 + (hashOf(identity) % 160)) * 1024 * 1024 * (0.6 + 0.4 * share)) / 4096) * 4096;
  }
  /** Every claim a pod mounts, with its size and what of it is used. */
  volumesOf(
    pod: ApiObject,
    at: number,
  ): { volume: string; claim: string; used: number; size: number; entriesUsed: number; entries: number }[] {
    const plan = this.world.planOf(pod);
    const mounted: { name: string; persistentVolumeClaim?: { claimName: string } }[] = pod['spec'].volumes ?? [];
    return mounted.flatMap(({ name, persistentVolumeClaim }) => {
      if (!persistentVolumeClaim || !plan?.volume) return [];
      const claim = persistentVolumeClaim.claimName;
      const size = amount(plan.volume.size);
      const { start, pace } = this.world.options;
      const grown = ((plan.volume.perHour ?? 0.0005 * Gi) * (at - start) * pace) / HOUR;
      const filled = this.incidents.filledShare({ namespace: pod.metadata.namespace ?? '', claim, at });
      const wobble = 1 + (loadAt(`${pod.metadata.uid} ${claim}`, at / 1000) - 1) * 0.004;
      const usual = plan.volume.use * wobble + grown;
      const used = Math.max(0.02 * size, Math.min(0.995 * size, usual + filled * (size - usual)));
      const entries = Math.floor(size / BYTES_PER_ENTRY);
      const crowded = this.incidents.filledShare({
        namespace: pod.metadata.namespace ?? '',
        claim,
        at,
        what: 'entries',
      });
      const few = Math.floor(used / 400_000);
      return [
        {
          volume: name,
          claim,
          size,
          used: Math.round(used / 4096) * 4096,
          entries,
          entriesUsed: Math.min(entries, Math.floor(few + crowded * (entries - few))),
        },
      ];
    });
  }

  // ---- nodes ------------------------------------------------------------------------------------------------------

  private podsOn(node: string): ApiObject[] {
    return this.world.store.list('pods').filter((pod) => pod['spec'].nodeName === node);
  }
  nodeCpuSeconds(node: string, at: number): number {
    const spent = this.podsOn(node).reduce((sum, pod) => sum + this.podCpuSeconds(pod, at), 0);
    const system =
      0.35 *
      loadBetween({ identity: `${node} system`, from: (this.world.options.start - NODE_AGE) / 1000, to: at / 1000 });
    return spent + this.world.spentByGonePods(node) + system;
  }
  nodeMemoryBytes(node: string, at: number): number {
    const used = this.podsOn(node)
      .flatMap((pod) => this.containersOf(pod))
      .reduce((sum, container) => sum + this.memoryBytes(container, at), 0);
    return used + 1_450_000_000 + Math.round((shareOf(node) * 4e8) / 4096) * 4096;
  }
  nodeNetworkBytes(node: string, direction: 'receive' | 'transmit', at: number): number {
    const identity = `${node} ${direction}`;
    const from = (this.world.options.start - NODE_AGE) / 1000;
    return Math.round(650_000 * (direction === 'receive' ? 1 : 1.4) * loadBetween({ identity, from, to: at / 1000 }));
  }
  nodeNetworkErrors(node: string, direction: 'receive' | 'transmit', at: number): number {
    const from = (this.world.options.start - NODE_AGE) / 1000;
    const perSecond = 0.002 * shareOf(`${node} ${direction} errors`);
    return Math.floor(perSecond * loadBetween({ identity: `${node} ${direction} errors`, from, to: at / 1000 }));
  }
  /** A disk that has errors is rare: one node in a few has some. */
  deviceErrors(node: string, at: number): number {
    if (hashOf(`${node} disk`) % 5 !== 0) return 0;
    const from = (this.world.options.start - NODE_AGE) / 1000;
    return Math.floor(0.01 * loadBetween({ identity: `${node} disk errors`, from, to: at / 1000 }));
  }
  nodeFiles(node: string, at: number): { used: number; size: number } {
    const plan = this.world.options.plan.nodes.find(({ name }) => name === node);
    const size = NODE_CLASSES[plan?.nodeClass ?? 'broad'].disk;
    const share = 0.38 + 0.2 * shareOf(`${node} disk`) + 0.01 * (loadAt(`${node} disk`, at / 1000) - 1);
    return { used: Math.round((size * share) / 4096) * 4096, size };
  }
  nodeEntries(node: string, at: number): { used: number; count: number } {
    const { used, size } = this.nodeFiles(node, at);
    return { used: Math.floor(used / 90_000), count: Math.floor(size / BYTES_PER_ENTRY) };
  }
  nodeProcesses(node: string, at: number): ProcessReading[] {
    const from = (this.world.options.start - NODE_AGE) / 1000;
    return NODE_PROCESSES.map(({ name, cpu, memory, threads, files }) => ({
      name,
      pid: 400 + (hashOf(`${node} ${name}`) % 900),
      cpuSeconds: cpu * loadBetween({ identity: `${node} ${name}`, from, to: at / 1000 }),
      memory: Math.round((memory * loadAt(`${node} ${name} memory`, at / 1000, 0.2)) / 4096) * 4096,
      threads,
      files,
    }));
  }
}
