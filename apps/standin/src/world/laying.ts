import { REVISION_ANNOTATION } from '../wire-names.ts';
import { hashOf, nameSuffix } from './chance.ts';
import type { Inhabited } from './inhabited.ts';
import { type ApiObject, managed } from './objects.ts';
import { Rollouts } from './rollouts.ts';
import { BAD_RELEASE, DAY, MINUTE, TEAM_OF, type WorkloadPlan } from './scenario/index.ts';
import { eventShape } from './shapes/events.ts';
import { namespaceShape, nodeShape } from './shapes/nodes.ts';
import {
  budgetShape,
  claimShape,
  keysShape,
  limitRangeShape,
  quotaShape,
  scalerShape,
  serviceShape,
  settingsShape,
  sliceShape,
  volumeShape,
} from './shapes/others.ts';
import type { PodStart } from './shapes/pods.ts';
import { daemonSetShape, deploymentShape, replicaSetShape, statefulSetShape } from './shapes/workloads.ts';
import { CronRuns } from './stories/cronRuns.ts';
import type { LeakRounds } from './stories/leakRounds.ts';
import { LeakStory } from './stories/leakStory.ts';
import { layNodeTrouble } from './stories/nodeTrouble.ts';

/** Lays a cluster out as it stands when its stories begin. */
export class Laying {
  private readonly world: Inhabited;
  private readonly rounds: LeakRounds;
  private readonly cron: CronRuns;
  constructor(world: Inhabited, rounds: LeakRounds) {
    this.world = world;
    this.rounds = rounds;
    this.cron = new CronRuns(world);
  }

  lay(now: number): void {
    const { plan, start, nodePorts } = this.world.options;
    const { store, seed } = this.world;
    plan.nodes.forEach((node, i) => {
      store.put({
        kind: 'nodes',
        object: nodeShape({ plan: node, seed, createdAt: start - 41 * DAY, port: nodePorts[i]!, now }),
        at: now,
      });
    });
    for (const name of plan.namespaces)
      store.put({
        kind: 'namespaces',
        object: namespaceShape({ name, team: TEAM_OF[name] ?? 'platform', seed, createdAt: start - 40 * DAY }),
        at: now,
      });
    this.layBounds(now);
    for (const workload of plan.workloads) {
      this.layBelongings(workload, now);
      if (workload.kind === 'daemonset') this.layDaemonSet(workload, now);
      else if (workload.kind === 'statefulset') this.layStatefulSet(workload, now);
      else if (workload.kind === 'cronjob') this.cron.lay(workload, now);
      else if (plan.stories.has('badRelease') && workload.name === BAD_RELEASE.name) this.layBadRelease(workload, now);
      else this.layDeployment(workload, now);
      this.world.count(workload.namespace, workload.name, now);
    }
    this.layScalers(now);
    if (plan.stories.has('nodeTrouble')) layNodeTrouble(this.world, now);
    if (plan.stories.has('leak')) new LeakStory(this.world, this.rounds).follow(now);
  }

  private place(namespace: string, name: string, age = 40 * DAY) {
    return { namespace, name, seed: this.world.seed, createdAt: this.world.options.start - age };
  }

  private layBounds(now: number): void {
    const { plan } = this.world.options;
    for (const { namespace, name, hard } of plan.quotas)
      this.world.store.put({
        kind: 'resourcequotas',
        object: quotaShape(hard, this.place(namespace, name, 39 * DAY)),
        at: now,
      });
    for (const namespace of plan.bounded)
      this.world.store.put({
        kind: 'limitranges',
        object: limitRangeShape(this.place(namespace, 'usual', 39 * DAY)),
        at: now,
      });
  }
  private layScalers(now: number): void {
    const { plan } = this.world.options;
    for (const scaler of plan.scalers)
      this.world.store.put({
        kind: 'horizontalpodautoscalers',
        object: scalerShape(scaler, this.place(scaler.namespace, scaler.name, 30 * DAY), {
          replicas: this.replicas(scaler),
          // story 2: it is at its most since the rush began
          limitedSince: this.world.options.start - this.world.paced(120 * MINUTE),
        }),
        at: now,
      });
    for (const budget of plan.budgets)
      this.world.store.put({
        kind: 'poddisruptionbudgets',
        object: budgetShape(budget, this.place(budget.namespace, budget.name, 30 * DAY), this.replicas(budget)),
        at: now,
      });
  }
  private replicas({ namespace, name }: { namespace: string; name: string }): number {
    return this.world.podsOf(namespace, name).length;
  }

  /** Service, settings, keys: what a workload has beside its pods. */
  private layBelongings(plan: WorkloadPlan, now: number): void {
    const { store, seed } = this.world;
    const place = (name: string) => this.place(plan.namespace, name, 38 * DAY);
    if (plan.settings) {
      // story 3: somebody changed the settings two minutes before the release
      const bad = plan.name === BAD_RELEASE.name && this.world.options.plan.stories.has('badRelease');
      const before = bad ? this.world.paced(52 * MINUTE) : (5 + (hashOf(plan.name) % 20)) * DAY;
      store.put({
        kind: 'configmaps',
        object: settingsShape(place(`${plan.name}-settings`), this.world.options.start - before, 'harbour-delivery'),
        at: now,
      });
    }
    if (plan.keys) store.put({ kind: 'secrets', object: keysShape(place(`${plan.name}-keys`)), at: now });
    if (plan.kind !== 'deployment' && plan.kind !== 'statefulset') return;
    const service = serviceShape(plan, place(plan.name));
    store.put({ kind: 'services', object: service, at: now });
    store.put({ kind: 'endpointslices', object: sliceShape(service, [], seed), at: now });
  }

  private layDeployment(plan: WorkloadPlan, now: number): void {
    const { options, store, seed } = this.world;
    const created = options.start - (3 + (hashOf(plan.name) % 30)) * DAY;
    const deployment = deploymentShape({
      plan,
      seed,
      createdAt: created,
      image: plan.image,
      revision: 1 + (hashOf(plan.name) % 12),
    });
    const set = replicaSetShape({
      plan,
      deployment,
      hash: nameSuffix(plan.image, 9),
      createdAt: created,
      image: plan.image,
      replicas: plan.replicas,
    });
    store.put({ kind: 'deployments', object: deployment, at: now });
    store.put({ kind: 'replicasets', object: set, at: now });
    // story 8: its quota is spent, and so it has no pods at all
    if (options.plan.stories.has('quota') && plan.name === 'ticket-scanner') {
      new Rollouts(this.world).refuse(plan, options.start - this.world.paced(25 * MINUTE));
      return;
    }
    for (let i = 0; i < plan.replicas; i++)
      this.settledPod({ plan, set, image: plan.image, createdAt: created + i * 900, index: i, now });
  }
  private settledPod({
    plan,
    set,
    image,
    createdAt,
    index,
    now,
    start = { is: 'running', since: createdAt + 4000 },
  }: {
    readonly plan: WorkloadPlan;
    readonly set: ApiObject;
    readonly image: string;
    readonly createdAt: number;
    readonly index: number;
    readonly now: number;
    readonly start?: PodStart;
  }): ApiObject {
    return this.world.addPod(
      {
        plan,
        owner: { kind: 'ReplicaSet', name: set.metadata.name, uid: set.metadata.uid },
        name: `${set.metadata.name}-${nameSuffix(`${set.metadata.uid} ${createdAt} ${index}`, 5)}`,
        labels: { ...set.metadata.labels },
        image,
        createdAt,
        start,
      },
      now,
    );
  }

  private layStatefulSet(plan: WorkloadPlan, now: number): void {
    const { store, seed, options } = this.world;
    const created = options.start - (20 + (hashOf(plan.name) % 15)) * DAY;
    const set = statefulSetShape(plan, seed, created);
    store.put({ kind: 'statefulsets', object: set, at: now });
    for (let i = 0; i < plan.replicas; i++) {
      const name = `${plan.name}-${i}`;
      const claims: string[] = [];
      if (plan.volume) {
        const claim = claimShape(plan.volume.size, {
          namespace: plan.namespace,
          name: `data-${name}`,
          seed,
          createdAt: created,
        });
        claims.push(claim.metadata.name);
        store.put({ kind: 'persistentvolumeclaims', object: claim, at: now });
        store.put({ kind: 'persistentvolumes', object: volumeShape(claim, seed), at: now });
      }
      const createdAt = created + i * 5000;
      this.world.addPod(
        {
          plan,
          owner: { kind: 'StatefulSet', name: plan.name, uid: set.metadata.uid },
          name,
          labels: { app: plan.name },
          image: plan.image,
          createdAt,
          start: { is: 'running', since: createdAt + 4000 },
          claims,
        },
        now,
      );
    }
  }

  private layDaemonSet(plan: WorkloadPlan, now: number): void {
    const { store, seed, options } = this.world;
    const created = options.start - 30 * DAY;
    const set = daemonSetShape(plan, seed, created);
    store.put({ kind: 'daemonsets', object: set, at: now });
    options.plan.nodes.forEach((node, i) => {
      const createdAt = created + i * 700;
      this.world.addPod(
        {
          plan,
          owner: { kind: 'DaemonSet', name: plan.name, uid: set.metadata.uid },
          name: `${plan.name}-${nameSuffix(`${plan.name} ${node.name}`, 5)}`,
          labels: { app: plan.name },
          image: plan.image,
          createdAt,
          start: { is: 'running', since: createdAt + 4000 },
          node: node.name,
        },
        now,
      );
    });
  }

  /** Story 3: three of the old pods still serve, two of the new ones wait for an image that does not exist. */
  private layBadRelease(plan: WorkloadPlan, now: number): void {
    const { store, seed, options } = this.world;
    const released = options.start - this.world.paced(50 * MINUTE);
    const created = options.start - 21 * DAY;
    const { goodImage, badImage } = BAD_RELEASE;
    const deployment = deploymentShape({ plan, seed, createdAt: created, image: badImage, revision: 18 });
    deployment.metadata.managedFields = [managed('harbour-delivery', released)];
    const before = replicaSetShape({
      plan,
      deployment,
      hash: nameSuffix(goodImage, 9),
      createdAt: created,
      image: goodImage,
      replicas: 3,
    });
    before.metadata.annotations = { [REVISION_ANNOTATION]: '17' };
    const after = replicaSetShape({
      plan,
      deployment,
      hash: nameSuffix(badImage, 9),
      createdAt: released,
      image: badImage,
      replicas: 2,
    });
    store.put({ kind: 'deployments', object: deployment, at: now });
    store.put({ kind: 'replicasets', object: before, at: now });
    store.put({ kind: 'replicasets', object: after, at: now });
    for (let i = 0; i < 3; i++)
      this.settledPod({ plan, set: before, image: goodImage, createdAt: created + i * 900, index: i, now });
    for (let i = 0; i < 2; i++) {
      const at = released + i * 400;
      const pod = this.settledPod({
        plan,
        set: after,
        image: badImage,
        createdAt: at,
        index: i,
        now,
        start: { is: 'imageMissing', since: at },
      });
      const tries = Math.max(1, Math.floor((now - released) / (5 * MINUTE)));
      const words = `Failed to pull image "${badImage}": not found`;
      store.put({
        kind: 'events',
        object: eventShape({
          about: { kind: 'Pod', object: pod },
          reason: 'Failed',
          message: words,
          type: 'Warning',
          firstAt: released + 3000,
          lastAt: now - 20_000,
          count: tries,
        }),
        at: now,
      });
    }
    const words = `Scaled up replica set ${after.metadata.name} from 0 to 2`;
    store.put({
      kind: 'events',
      object: eventShape({
        about: { kind: 'Deployment', object: deployment },
        reason: 'ScalingReplicaSet',
        message: words,
        type: 'Normal',
        firstAt: released,
        lastAt: released,
        count: 1,
      }),
      at: now,
    });
  }
}
