import { REVISION_ANNOTATION } from '../wire-names.ts';
import { dice, hashOf, nameSuffix, shareOf } from './chance.ts';
import type { Inhabited } from './inhabited.ts';
import { LeakRounds } from './leakRounds.ts';
import { LeakStory } from './leakStory.ts';
import { type ApiObject, iso } from './objects.ts';
import { Readings } from './readings.ts';
import { BAD_RELEASE, LEAKING, NAMESPACES, NODES, WORKLOADS, type WorkloadPlan } from './scenario.ts';
import {
  daemonSetShape,
  deploymentShape,
  eventShape,
  isReady,
  namespaceShape,
  nodeShape,
  type Owner,
  podShape,
  podStatus,
  replicaSetShape,
} from './shapes.ts';
import { ObjectStore } from './store.ts';

export interface WorldOptions {
  readonly seed: string;
  /** When the stories begin. */
  readonly start: number;
  /** The stories run this many times faster than in the harbour. */
  readonly pace: number;
  readonly nodePorts: readonly number[];
  readonly firstVersion: number;
  /** Length of a heartbeat in ms; nodes differ by nothing else. */
  readonly heartbeat: number;
}

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;

/** One cluster living through its stories. Everything it does follows from the seed, the start and what is asked of it. */
export class World implements Inhabited {
  readonly store: ObjectStore;
  readonly options: WorldOptions;
  private readonly timers = new Set<NodeJS.Timeout>();
  private readonly retired = new Map<string, number>();
  private readonly plans = new Map<string, WorkloadPlan>();
  readonly readings: Readings;
  private readonly leak: LeakStory;
  private numbered = 0;

  constructor(options: WorldOptions, now: number) {
    this.options = options;
    this.store = new ObjectStore(options.firstVersion);
    const rounds = new LeakRounds(options.start, options.pace);
    this.readings = new Readings(this, rounds);
    this.leak = new LeakStory(this, rounds);
    this.lay(now);
  }

  close(): void {
    for (const timer of this.timers) clearTimeout(timer);
    this.timers.clear();
  }

  // ---- the cluster before the stories -------------------------------------------------------------------------

  private lay(now: number): void {
    const { seed, start, nodePorts } = this.options;
    NODES.forEach((plan, i) => {
      this.store.put('nodes', nodeShape(plan, seed, start - 41 * DAY, nodePorts[i]!, now), now);
    });
    for (const [name, team] of Object.entries(NAMESPACES)) {
      this.store.put('namespaces', namespaceShape(name, team, seed, start - 40 * DAY), now);
    }
    for (const plan of WORKLOADS) {
      this.plans.set(`${plan.namespace}/${plan.name}`, plan);
      if (plan.kind === 'daemonset') this.layDaemonSet(plan, now);
      else if (plan.name === BAD_RELEASE.name) this.layBadRelease(plan, now);
      else this.layDeployment(plan, now);
    }
    this.every(this.options.heartbeat, () => this.beat());
  }

  private layDeployment(plan: WorkloadPlan, now: number): void {
    const age = (3 + (hashOf(plan.name) % 30)) * DAY;
    const created = this.options.start - age;
    const deployment = deploymentShape(plan, this.options.seed, created, plan.image, 1 + (hashOf(plan.name) % 12));
    const set = replicaSetShape(plan, deployment, nameSuffix(plan.image, 9), created, plan.image, plan.replicas);
    this.store.put('deployments', deployment, now);
    this.store.put('replicasets', set, now);
    for (let i = 0; i < plan.replicas; i++) this.addPod(plan, set, plan.image, created + i * 900, i, now, true);
    this.count(plan.namespace, plan.name, now);
    if (plan.name === LEAKING.name) this.leak.follow(now);
  }

  private layDaemonSet(plan: WorkloadPlan, now: number): void {
    const created = this.options.start - 30 * DAY;
    const set = daemonSetShape(plan, this.options.seed, created);
    NODES.forEach((node, i) => {
      const owner: Owner = { kind: 'DaemonSet', name: plan.name, uid: set.metadata.uid };
      const at = created + i * 700;
      const name = `${plan.name}-${nameSuffix(`${plan.name} ${node.name}`, 5)}`;
      this.store.put(
        'pods',
        podShape(plan, owner, name, { app: plan.name }, plan.image, node.name, at, { is: 'running', since: at + 4000 }),
        now,
      );
    });
    set['status'] = {
      desiredNumberScheduled: NODES.length,
      currentNumberScheduled: NODES.length,
      numberReady: NODES.length,
      numberAvailable: NODES.length,
      updatedNumberScheduled: NODES.length,
      numberMisscheduled: 0,
      observedGeneration: 1,
    };
    this.store.put('daemonsets', set, now);
  }

  /** Story 3: three of the old pods still serve, two of the new ones wait for an image that does not exist. */
  private layBadRelease(plan: WorkloadPlan, now: number): void {
    const { start, pace, seed } = this.options;
    const released = start - (50 * MINUTE) / pace;
    const created = start - 21 * DAY;
    const deployment = deploymentShape(plan, seed, created, BAD_RELEASE.badImage, 18);
    const before = replicaSetShape(
      plan,
      deployment,
      nameSuffix(BAD_RELEASE.goodImage, 9),
      created,
      BAD_RELEASE.goodImage,
      3,
    );
    before.metadata.annotations = { [REVISION_ANNOTATION]: '17' };
    const after = replicaSetShape(
      plan,
      deployment,
      nameSuffix(BAD_RELEASE.badImage, 9),
      released,
      BAD_RELEASE.badImage,
      2,
    );
    this.store.put('deployments', deployment, now);
    this.store.put('replicasets', before, now);
    this.store.put('replicasets', after, now);
    for (let i = 0; i < 3; i++) this.addPod(plan, before, BAD_RELEASE.goodImage, created + i * 900, i, now, true);
    for (let i = 0; i < 2; i++) {
      const pod = this.addPod(plan, after, BAD_RELEASE.badImage, released + i * 400, i, now, true);
      const tries = Math.max(1, Math.floor((now - released) / (5 * MINUTE)));
      const about = { kind: 'Pod', object: pod };
      this.store.put(
        'events',
        eventShape(
          about,
          'Failed',
          `Failed to pull image "${BAD_RELEASE.badImage}": not found`,
          'Warning',
          released + 3000,
          now - 20_000,
          tries,
        ),
        now,
      );
    }
    this.store.put(
      'events',
      eventShape(
        { kind: 'Deployment', object: deployment },
        'ScalingReplicaSet',
        `Scaled up replica set ${after.metadata.name} from 0 to 2`,
        'Normal',
        released,
        released,
        1,
      ),
      now,
    );
    this.count(plan.namespace, plan.name, now);
  }

  // ---- pods ---------------------------------------------------------------------------------------------------

  private addPod(
    plan: WorkloadPlan,
    set: ApiObject,
    image: string,
    createdAt: number,
    index: number,
    now: number,
    settled: boolean,
  ): ApiObject {
    const name = `${set.metadata.name}-${nameSuffix(`${set.metadata.uid} ${createdAt} ${index}`, 5)}`;
    const node = NODES[(hashOf(plan.name) + index * 5 + this.numbered) % NODES.length]!.name;
    const owner: Owner = { kind: 'ReplicaSet', name: set.metadata.name, uid: set.metadata.uid };
    const missing = image === BAD_RELEASE.badImage;
    const start = missing
      ? ({ is: 'imageMissing', since: createdAt } as const)
      : settled
        ? ({ is: 'running', since: createdAt + 4000 } as const)
        : ({ is: 'starting' } as const);
    const pod = podShape(plan, owner, name, { ...set.metadata.labels }, image, node, createdAt, start);
    this.store.put('pods', pod, now);
    return pod;
  }

  planOf(pod: ApiObject): WorkloadPlan | undefined {
    return this.plans.get(`${pod.metadata.namespace}/${pod.metadata.labels?.['app']}`);
  }
  /** CPU seconds that pods spent on a node before they went: a node's counter never falls. */
  spentByGonePods(node: string): number {
    return this.retired.get(node) ?? 0;
  }

  podsOf(namespace: string, name: string): ApiObject[] {
    return this.store
      .list('pods')
      .filter((pod) => pod.metadata.namespace === namespace && pod.metadata.labels?.['app'] === name);
  }

  private removePod(pod: ApiObject, at: number): void {
    const node = pod['spec'].nodeName as string;
    this.retired.set(node, (this.retired.get(node) ?? 0) + this.readings.podCpuSeconds(pod, at));
    this.store.remove('pods', pod, at);
  }

  /** Counts of replica sets and the deployment, as their controllers would write them. */
  count(namespace: string, name: string, at: number): void {
    const deployment = this.store.get('deployments', namespace, name);
    if (!deployment) return;
    const changed = structuredClone(deployment);
    const sets = this.store
      .list('replicasets')
      .filter((set) => set.metadata.ownerReferences?.[0]?.uid === deployment.metadata.uid);
    const image = changed['spec'].template.spec.containers[0].image;
    let present = 0;
    let ready = 0;
    let updated = 0;
    for (const set of sets) {
      const pods = this.podsOf(namespace, name).filter(
        (pod) => pod.metadata.ownerReferences?.[0]?.uid === set.metadata.uid,
      );
      const up = pods.filter(isReady).length;
      const status = {
        replicas: pods.length,
        fullyLabeledReplicas: pods.length,
        readyReplicas: up,
        availableReplicas: up,
        observedGeneration: set.metadata.generation,
      };
      if (JSON.stringify(set['status']) !== JSON.stringify(status))
        this.store.put('replicasets', { ...structuredClone(set), status }, at);
      present += pods.length;
      ready += up;
      if (set['spec'].template.spec.containers[0].image === image) updated += pods.length;
    }
    const stuck = image === BAD_RELEASE.badImage;
    const released = this.options.start - (50 * MINUTE) / this.options.pace;
    const created = Date.parse(changed.metadata.creationTimestamp);
    changed['status'] = {
      observedGeneration: changed.metadata.generation,
      replicas: present,
      updatedReplicas: updated,
      readyReplicas: ready,
      availableReplicas: ready,
      unavailableReplicas: Math.max(0, changed['spec'].replicas - ready),
      conditions: [
        {
          type: 'Available',
          status: 'True',
          reason: 'MinimumReplicasAvailable',
          message: 'Deployment has minimum availability.',
          lastUpdateTime: iso(created),
          lastTransitionTime: iso(created),
        },
        stuck
          ? {
              type: 'Progressing',
              status: 'False',
              reason: 'ProgressDeadlineExceeded',
              message: `ReplicaSet "${sets.at(-1)?.metadata.name}" has timed out progressing.`,
              lastUpdateTime: iso(released + 600_000),
              lastTransitionTime: iso(released + (10 * MINUTE) / this.options.pace),
            }
          : {
              type: 'Progressing',
              status: 'True',
              reason: 'NewReplicaSetAvailable',
              message: 'The newest replica set is complete.',
              lastUpdateTime: iso(created),
              lastTransitionTime: iso(created),
            },
      ],
    };
    if (JSON.stringify(changed) !== JSON.stringify(deployment)) this.store.put('deployments', changed, at);
  }

  // ---- what can be asked of it --------------------------------------------------------------------------------

  /** Pods come as pending, start after about a second, and go at once. */
  scale(namespace: string, name: string, replicas: number, at: number): string | null {
    const plan = this.plans.get(`${namespace}/${name}`);
    const deployment = this.store.get('deployments', namespace, name);
    if (!plan || !deployment) return `no deployment ${namespace}/${name}`;
    if (!Number.isInteger(replicas) || replicas < 0 || replicas > 50)
      return 'replicas must be a whole number from 0 to 50';
    const image = deployment['spec'].template.spec.containers[0].image as string;
    const set = this.store
      .list('replicasets')
      .find(
        (candidate) =>
          candidate.metadata.ownerReferences?.[0]?.uid === deployment.metadata.uid &&
          candidate['spec'].template.spec.containers[0].image === image,
      );
    if (!set) return 'its replica set is gone';
    const wanted = structuredClone(deployment);
    wanted['spec'].replicas = replicas;
    wanted.metadata.generation = (wanted.metadata.generation ?? 1) + 1;
    this.store.put('deployments', wanted, at);
    const setWanted = structuredClone(set);
    setWanted['spec'].replicas = replicas;
    setWanted.metadata.generation = (setWanted.metadata.generation ?? 1) + 1;
    this.store.put('replicasets', setWanted, at);
    const pods = this.podsOf(namespace, name);
    for (const pod of pods.slice(replicas)) this.removePod(pod, at);
    for (let i = pods.length; i < replicas; i++) {
      this.numbered++;
      const pod = this.addPod(plan, setWanted, image, at, 100 + this.numbered, at, false);
      this.store.put(
        'events',
        eventShape({ kind: 'Pod', object: pod }, 'Scheduled', `Placed on ${pod['spec'].nodeName}`, 'Normal', at, at, 1),
        at,
      );
      if (image !== BAD_RELEASE.badImage)
        this.after(700 + 600 * shareOf(pod.metadata.name), () => this.bringUp(pod, plan, image));
    }
    this.count(namespace, name, at);
    return null;
  }

  private bringUp(pod: ApiObject, plan: WorkloadPlan, image: string): void {
    const now = Date.now();
    const current = this.store.get('pods', pod.metadata.namespace, pod.metadata.name);
    if (current?.metadata.uid !== pod.metadata.uid) return;
    const created = Date.parse(current.metadata.creationTimestamp);
    this.store.put(
      'pods',
      {
        ...structuredClone(current),
        status: podStatus(plan, image, pod.metadata.name, created, { is: 'running', since: now }),
      },
      now,
    );
    this.count(plan.namespace, plan.name, now);
  }

  /** Ends story 3: the deployment goes back to the image that works. */
  mendRelease(at: number): void {
    const { namespace, name, goodImage, badImage } = BAD_RELEASE;
    const plan = this.plans.get(`${namespace}/${name}`)!;
    const deployment = structuredClone(this.store.get('deployments', namespace, name)!);
    if (deployment['spec'].template.spec.containers[0].image !== badImage) return;
    deployment['spec'].template.spec.containers[0].image = goodImage;
    deployment.metadata.generation = (deployment.metadata.generation ?? 1) + 1;
    deployment.metadata.annotations = { [REVISION_ANNOTATION]: '19' };
    this.store.put('deployments', deployment, at);
    const sets = this.store
      .list('replicasets')
      .filter((set) => set.metadata.ownerReferences?.[0]?.uid === deployment.metadata.uid);
    for (const set of sets) {
      const good = set['spec'].template.spec.containers[0].image === goodImage;
      const changed = structuredClone(set);
      changed['spec'].replicas = good ? 5 : 0;
      if (good) changed.metadata.annotations = { [REVISION_ANNOTATION]: '19' };
      this.store.put('replicasets', changed, at);
      if (!good)
        for (const pod of this.podsOf(namespace, name).filter(
          (own) => own.metadata.ownerReferences?.[0]?.uid === set.metadata.uid,
        ))
          this.removePod(pod, at);
      else {
        for (let i = 0; i < 2; i++) {
          this.numbered++;
          const pod = this.addPod(plan, changed, goodImage, at, 100 + this.numbered, at, false);
          this.after(900 + i * 300, () => this.bringUp(pod, plan, goodImage));
        }
      }
    }
    this.count(namespace, name, at);
  }

  /** Random small changes, for tests: scaling up and down, labels, all from the seed. */
  churn(every: number): void {
    const roll = dice(`${this.options.seed} churn`);
    const plans = WORKLOADS.filter(
      (plan) => plan.kind === 'deployment' && plan.name !== LEAKING.name && plan.name !== BAD_RELEASE.name,
    );
    this.every(every, () => {
      const plan = plans[Math.floor(roll() * plans.length)]!;
      const now = Date.now();
      if (roll() < 0.7) this.scale(plan.namespace, plan.name, 1 + Math.floor(roll() * 5), now);
      else {
        const namespace = structuredClone(this.store.get('namespaces', undefined, plan.namespace)!);
        namespace.metadata.labels = { ...namespace.metadata.labels, season: roll() < 0.5 ? 'calm' : 'storm' };
        this.store.put('namespaces', namespace, now);
      }
    });
  }

  private beat(): void {
    const now = Date.now();
    for (const node of this.store.list('nodes')) {
      const changed = structuredClone(node);
      for (const condition of changed['status'].conditions) condition.lastHeartbeatTime = iso(now);
      this.store.put('nodes', changed, now, true);
    }
  }

  // ---- time ---------------------------------------------------------------------------------------------------

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
  private every(period: number, act: () => void): void {
    this.after(period, () => {
      act();
      this.every(period, act);
    });
  }
}
