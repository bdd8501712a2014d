import { dice } from './chance.ts';
import type { Ending, Endings } from './endings.ts';
import type { Inhabited } from './inhabited.ts';
import { iso } from './objects.ts';
import { BAD_RELEASE, LEAKING, type WorkloadPlan } from './scenario/index.ts';
import { eventShape } from './shapes/events.ts';
import { podStatus } from './shapes/pods.ts';

const MINUTE = 60_000;
/** Of a file system: its bytes, or its entries. */
type Filled = 'space' | 'entries';
interface Growth {
  readonly from: number;
  readonly length: number;
}

/** What may be done to a cluster on demand, beside its stories. Lengths are real time, whatever the pace. */
export class Incidents {
  private readonly world: Inhabited;
  private readonly lost = new Set<string>();
  private readonly closed = new Set<string>();
  private readonly leaking = new Map<string, Growth>();
  private readonly filling = new Map<string, Growth>();
  private readonly skewed = new Map<string, number>();
  private readonly endings: Endings;
  constructor(world: Inhabited, endings: Endings) {
    this.world = world;
    this.endings = endings;
  }

  takesPods(node: string): boolean {
    return !this.lost.has(node) && !this.closed.has(node);
  }
  isLost(node: string): boolean {
    return this.lost.has(node);
  }
  /** How far ahead a node's own clock is, in ms. */
  skewOf(node: string): number {
    return this.skewed.get(node) ?? 0;
  }
  /** 0 … 1 of the way from its usual memory to its limit; begins anew with the container. */
  leakedShare(plan: WorkloadPlan, runsSince: number, at: number): number {
    const leak = this.leaking.get(`${plan.namespace}/${plan.name}`);
    if (!leak || at < leak.from) return 0;
    return Math.min(1, (at - Math.max(leak.from, runsSince)) / leak.length);
  }
  filledShare({
    namespace,
    claim,
    at,
    what = 'space',
  }: {
    readonly namespace: string;
    readonly claim: string;
    readonly at: number;
    readonly what?: Filled;
  }): number {
    const growth = this.filling.get(`${what} ${namespace}/${claim}`);
    return !growth || at < growth.from ? 0 : Math.min(1, (at - growth.from) / growth.length);
  }
  /** What is going on now, for the page. */
  list(): string[] {
    return [
      ...[...this.lost].map((node) => `node ${node} is lost`),
      ...[...this.closed].map((node) => `node ${node} takes no new pods`),
      ...[...this.leaking.keys()].map((name) => `${name} leaks`),
      ...[...this.filling.keys()].map((name) => `volume fills: ${name}`),
      ...[...this.skewed].map(([node, skew]) => `the clock of ${node} is ${skew / 1000} s ahead`),
    ];
  }

  /** The node stops reporting: not ready at once, its page does not answer, its pods are unknown. */
  loseNode(node: string, at: number): string | null {
    if (!this.world.store.get('nodes', undefined, node)) return `no node ${node}`;
    this.lost.add(node);
    this.conditions({
      node,
      to: { Ready: 'Unknown' },
      reason: 'NodeStatusUnknown',
      message: 'the node stopped posting its status',
      at,
    });
    const object = this.world.store.get('nodes', undefined, node)!;
    this.world.store.put({
      kind: 'events',
      object: eventShape({
        about: { kind: 'Node', object },
        reason: 'NodeNotReady',
        message: `Node ${node} status is now: NodeNotReady`,
        type: 'Normal',
        firstAt: at,
        lastAt: at,
        count: 1,
      }),
      at,
    });
    this.podsReady(node, false, at);
    return null;
  }
  findNode(node: string, at: number): string | null {
    if (!this.lost.delete(node)) return `node ${node} is not lost`;
    this.conditions({ node, to: { Ready: 'True' }, reason: 'NodeReady', message: 'the node takes pods', at });
    this.podsReady(node, true, at);
    return null;
  }
  /** It takes no new pods, until it does again; those that are on it stay. */
  closeNode(node: string, closed: boolean, at: number): string | null {
    if (!this.world.store.get('nodes', undefined, node)) return `no node ${node}`;
    if (closed) this.closed.add(node);
    else if (!this.closed.delete(node)) return `node ${node} is not closed`;
    this.world.change('nodes', undefined, node, at, (object) => {
      if (closed) object['spec'].unschedulable = true;
      else delete object['spec'].unschedulable;
    });
    return null;
  }
  private conditions({
    node,
    to,
    reason,
    message,
    at,
  }: {
    readonly node: string;
    readonly to: Record<string, string>;
    readonly reason: string;
    readonly message: string;
    readonly at: number;
  }): void {
    this.world.change('nodes', undefined, node, at, (object) => {
      for (const condition of object['status'].conditions)
        if (to[condition.type] !== undefined && condition.status !== to[condition.type])
          Object.assign(condition, { status: to[condition.type], reason, message, lastTransitionTime: iso(at) });
    });
  }
  private podsReady(node: string, ready: boolean, at: number): void {
    const pods = this.world.store.list('pods').filter((pod) => pod['spec'].nodeName === node);
    for (const pod of pods) {
      if (pod['status'].phase !== 'Running') continue;
      this.world.change('pods', pod.metadata.namespace, pod.metadata.name, at, (object) => {
        for (const condition of object['status'].conditions)
          if (condition.type === 'Ready')
            Object.assign(condition, { status: ready ? 'True' : 'False', lastTransitionTime: iso(at) });
      });
      this.world.count(pod.metadata.namespace ?? '', pod.metadata.labels?.['app'] ?? '', at);
    }
  }

  /** Memory climbs from the usual to the limit within so many minutes; there the container is ended, and again. */
  leak({
    namespace,
    name,
    minutes,
    at,
  }: {
    readonly namespace: string;
    readonly name: string;
    readonly minutes: number;
    readonly at: number;
  }): string | null {
    const plan = this.world.plan(namespace, name);
    if (!plan || plan.memory.limit === null) return `no workload ${namespace}/${name} with a memory limit`;
    if (!(minutes > 0 && minutes < 10_000)) return 'minutes must be above 0';
    const key = `${namespace}/${name}`;
    const growth = { from: at, length: minutes * MINUTE };
    this.leaking.set(key, growth);
    const end = () => {
      if (this.leaking.get(key) !== growth) return;
      for (const pod of this.world.podsOf(namespace, name))
        this.endContainer({ podName: pod.metadata.name, plan, exitCode: 137, reason: 'OOMKilled' });
      this.world.after(growth.length + 3000, end);
    };
    this.world.after(growth.length, end);
    return null;
  }
  stopLeak(namespace: string, name: string): string | null {
    return this.leaking.delete(`${namespace}/${name}`) ? null : `${namespace}/${name} does not leak`;
  }

  /** The space on the volume of a claim, or its room for files, is used up within so many minutes. */
  fill({
    namespace,
    claim,
    minutes,
    at,
    what = 'space',
  }: {
    readonly namespace: string;
    readonly claim: string;
    readonly minutes: number;
    readonly at: number;
    readonly what?: Filled;
  }): string | null {
    if (!this.world.store.get('persistentvolumeclaims', namespace, claim)) return `no claim ${namespace}/${claim}`;
    if (!(minutes > 0 && minutes < 100_000)) return 'minutes must be above 0';
    this.filling.set(`${what} ${namespace}/${claim}`, { from: at, length: minutes * MINUTE });
    return null;
  }
  /** Containers of a workload end one after the other, each a few times. */
  restarts(namespace: string, name: string, times: number): string | null {
    const plan = this.world.plan(namespace, name);
    const pods = this.world.podsOf(namespace, name);
    if (!plan || pods.length === 0) return `no pods of ${namespace}/${name}`;
    if (!Number.isInteger(times) || times < 1 || times > 50) return 'times must be a whole number from 1 to 50';
    for (let i = 0; i < times; i++)
      this.world.after(i * 2500, () =>
        this.endContainer({ podName: pods[i % pods.length]!.metadata.name, plan, exitCode: 1, reason: 'Error' }),
      );
    return null;
  }
  skew(node: string, seconds: number): string | null {
    if (!this.world.store.get('nodes', undefined, node)) return `no node ${node}`;
    if (!Number.isFinite(seconds) || Math.abs(seconds) > 86_400) return 'seconds must be at most a day';
    if (seconds === 0) this.skewed.delete(node);
    else this.skewed.set(node, seconds * 1000);
    return null;
  }

  /** The main container ends with a code, waits a little, and is started again. */
  private endContainer({
    podName,
    plan,
    exitCode,
    reason,
  }: {
    readonly podName: string;
    readonly plan: WorkloadPlan;
    readonly exitCode: number;
    readonly reason: string;
  }): void {
    const now = Date.now();
    const pod = this.world.store.get('pods', plan.namespace, podName);
    const status = pod?.['status'].containerStatuses?.[0];
    if (!pod || !status?.state?.running) return;
    const terminated = { exitCode, reason, startedAt: status.state.running.startedAt, finishedAt: iso(now) };
    this.world.change('pods', plan.namespace, podName, now, (object) => {
      Object.assign(object['status'].containerStatuses[0], { state: { terminated }, ready: false, started: false });
      for (const condition of object['status'].conditions)
        if (condition.type === 'Ready' || condition.type === 'ContainersReady')
          Object.assign(condition, { status: 'False', lastTransitionTime: iso(now) });
    });
    this.world.count(plan.namespace, plan.name, now);
    this.world.after(1500, () => {
      const ending: Ending = {
        namespace: plan.namespace,
        pod: podName,
        uid: pod.metadata.uid,
        restarts: (status.restartCount ?? 0) + 1,
        exitCode,
        reason,
        startedAt: terminated.startedAt,
        finishedAt: terminated.finishedAt,
        since: Date.now(),
      };
      this.startAgain(plan, ending, ending.since);
      this.endings.note(ending);
    });
  }
  private startAgain(plan: WorkloadPlan, ending: Ending, at: number): void {
    const { exitCode, reason, startedAt, finishedAt } = ending;
    this.world.change('pods', ending.namespace, ending.pod, at, (object) => {
      object['status'] = podStatus({
        plan,
        image: object['spec'].containers[0].image,
        name: ending.pod,
        createdAt: Date.parse(object.metadata.creationTimestamp),
        start: { is: 'running', since: ending.since },
        restarts: ending.restarts,
        lastState: { terminated: { exitCode, reason, startedAt, finishedAt } },
      });
    });
    this.world.count(plan.namespace, plan.name, at);
  }
  /** Of a stand-in before this one: the pods that are there again have been restarted already. */
  recall(at: number): void {
    for (const ending of this.endings.list()) {
      const plan = this.planOfPod(ending);
      if (plan) this.startAgain(plan, ending, at);
    }
  }
  private planOfPod({ namespace, pod, uid }: Ending): WorkloadPlan | undefined {
    const object = this.world.store.get('pods', namespace, pod);
    return object?.metadata.uid === uid ? this.world.planOf(object) : undefined;
  }

  /** Random small changes, for tests: scaling, labels, quotas, settings, all from the seed. */
  churn(every: number, scale: (namespace: string, name: string, replicas: number, at: number) => void): void {
    const roll = dice(`${this.world.seed} churn`);
    const plans = this.world.options.plan.workloads.filter(
      (plan) => plan.kind === 'deployment' && plan.name !== LEAKING.name && plan.name !== BAD_RELEASE.name,
    );
    this.world.every(every, () => {
      const plan = plans[Math.floor(roll() * plans.length)]!;
      const now = Date.now();
      const what = roll();
      if (what < 0.55) scale(plan.namespace, plan.name, 1 + Math.floor(roll() * 5), now);
      else if (what < 0.7)
        this.world.change('namespaces', undefined, plan.namespace, now, (namespace) => {
          namespace.metadata.labels = { ...namespace.metadata.labels, season: roll() < 0.5 ? 'calm' : 'storm' };
        });
      else this.churnOther(roll, now);
    });
  }
  private churnOther(roll: () => number, now: number): void {
    const kinds = [
      'configmaps',
      'secrets',
      'resourcequotas',
      'services',
      'persistentvolumeclaims',
      'cronjobs',
    ] as const;
    const kind = kinds[Math.floor(roll() * kinds.length)]!;
    const objects = this.world.store.list(kind);
    const object = objects[Math.floor(roll() * objects.length)];
    if (!object) return;
    const number = String(Math.floor(roll() * 1000));
    this.world.change(kind, object.metadata.namespace, object.metadata.name, now, (changed) => {
      if (kind === 'configmaps') changed['data'] = { ...changed['data'], 'pool-size': number };
      else if (kind === 'secrets') changed['data'] = { key: Buffer.from(number).toString('base64') };
      else if (kind === 'resourcequotas') changed['spec'].hard = { ...changed['spec'].hard, pods: number };
      else if (kind === 'services') changed['spec'].ports[0].port = 1000 + Number(number);
      else if (kind === 'persistentvolumeclaims')
        changed.metadata.labels = { ...changed.metadata.labels, checked: number };
      else changed['spec'].suspend = Number(number) % 2 === 0;
    });
  }
}
