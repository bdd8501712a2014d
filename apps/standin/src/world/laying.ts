import { REVISION_ANNOTATION } from '../wire-names.ts';
import { hashOf, nameSuffix } from './chance.ts';
import type { Inhabited } from './inhabited.ts';
import { type ApiObject, iso, managed } from './objects.ts';
import { Rollouts } from './rollouts.ts';
import { BAD_RELEASE, DAY, HOUR, MINUTE, TEAM_OF, type WorkloadPlan } from './scenario/index.ts';
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
import { endedPod, type PodStart } from './shapes/pods.ts';
import { daemonSetShape, deploymentShape, replicaSetShape, statefulSetShape } from './shapes/workloads.ts';
import { CronRuns } from './stories/cronRuns.ts';
import type { LeakRounds } from './stories/leakRounds.ts';
import { LeakStory } from './stories/leakStory.ts';

/** Story 4: the node, and the workloads that lost a pod on it. */
const TROUBLED = {
  node: 'seaward-07',
  before: 14 * HOUR,
  notReady: 6 * MINUTE,
  evicted: ['berths/quay-board', 'tides/chart-tiles', 'yard-cranes/crane-scheduler'],
};

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
      store.put('nodes', nodeShape(node, seed, start - 41 * DAY, nodePorts[i]!, now), now);
    });
    for (const name of plan.namespaces)
      store.put('namespaces', namespaceShape(name, TEAM_OF[name] ?? 'platform', seed, start - 40 * DAY), now);
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
    if (plan.stories.has('nodeTrouble')) this.layNodeTrouble(now);
    if (plan.stories.has('leak')) new LeakStory(this.world, this.rounds).follow(now);
  }

  private place(namespace: string, name: string, age = 40 * DAY) {
    return { namespace, name, seed: this.world.seed, createdAt: this.world.options.start - age };
  }

  private layBounds(now: number): void {
    const { plan } = this.world.options;
    for (const { namespace, name, hard } of plan.quotas)
      this.world.store.put('resourcequotas', quotaShape(hard, this.place(namespace, name, 39 * DAY)), now);
    for (const namespace of plan.bounded)
      this.world.store.put('limitranges', limitRangeShape(this.place(namespace, 'usual', 39 * DAY)), now);
  }
  private layScalers(now: number): void {
    const { plan } = this.world.options;
    for (const scaler of plan.scalers)
      this.world.store.put(
        'horizontalpodautoscalers',
        scalerShape(scaler, this.place(scaler.namespace, scaler.name, 30 * DAY), this.replicas(scaler)),
        now,
      );
    for (const budget of plan.budgets)
      this.world.store.put(
        'poddisruptionbudgets',
        budgetShape(budget, this.place(budget.namespace, budget.name, 30 * DAY), this.replicas(budget)),
        now,
      );
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
      store.put(
        'configmaps',
        settingsShape(place(`${plan.name}-settings`), this.world.options.start - before, 'harbour-delivery'),
        now,
      );
    }
    if (plan.keys) store.put('secrets', keysShape(place(`${plan.name}-keys`)), now);
    if (plan.kind !== 'deployment' && plan.kind !== 'statefulset') return;
    const service = serviceShape(plan, place(plan.name));
    store.put('services', service, now);
    store.put('endpointslices', sliceShape(service, [], seed), now);
  }

  private layDeployment(plan: WorkloadPlan, now: number): void {
    const { options, store, seed } = this.world;
    const created = options.start - (3 + (hashOf(plan.name) % 30)) * DAY;
    const deployment = deploymentShape(plan, seed, created, plan.image, 1 + (hashOf(plan.name) % 12));
    const set = replicaSetShape(plan, deployment, nameSuffix(plan.image, 9), created, plan.image, plan.replicas);
    store.put('deployments', deployment, now);
    store.put('replicasets', set, now);
    // story 8: its quota is spent, and so it has no pods at all
    if (options.plan.stories.has('quota') && plan.name === 'ticket-scanner') {
      new Rollouts(this.world).refuse(plan, options.start - this.world.paced(25 * MINUTE));
      return;
    }
    for (let i = 0; i < plan.replicas; i++) this.settledPod(plan, set, plan.image, created + i * 900, i, now);
  }
  private settledPod(
    plan: WorkloadPlan,
    set: ApiObject,
    image: string,
    createdAt: number,
    index: number,
    now: number,
    start: PodStart = { is: 'running', since: createdAt + 4000 },
  ): ApiObject {
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
    store.put('statefulsets', set, now);
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
        store.put('persistentvolumeclaims', claim, now);
        store.put('persistentvolumes', volumeShape(claim, seed), now);
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
    store.put('daemonsets', set, now);
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
    const deployment = deploymentShape(plan, seed, created, badImage, 18);
    deployment.metadata.managedFields = [managed('harbour-delivery', released)];
    const before = replicaSetShape(plan, deployment, nameSuffix(goodImage, 9), created, goodImage, 3);
    before.metadata.annotations = { [REVISION_ANNOTATION]: '17' };
    const after = replicaSetShape(plan, deployment, nameSuffix(badImage, 9), released, badImage, 2);
    store.put('deployments', deployment, now);
    store.put('replicasets', before, now);
    store.put('replicasets', after, now);
    for (let i = 0; i < 3; i++) this.settledPod(plan, before, goodImage, created + i * 900, i, now);
    for (let i = 0; i < 2; i++) {
      const at = released + i * 400;
      const pod = this.settledPod(plan, after, badImage, at, i, now, { is: 'imageMissing', since: at });
      const tries = Math.max(1, Math.floor((now - released) / (5 * MINUTE)));
      const words = `Failed to pull image "${badImage}": not found`;
      store.put(
        'events',
        eventShape({ kind: 'Pod', object: pod }, 'Failed', words, 'Warning', released + 3000, now - 20_000, tries),
        now,
      );
    }
    const words = `Scaled up replica set ${after.metadata.name} from 0 to 2`;
    store.put(
      'events',
      eventShape(
        { kind: 'Deployment', object: deployment },
        'ScalingReplicaSet',
        words,
        'Normal',
        released,
        released,
        1,
      ),
      now,
    );
  }

  /** Story 4: what is left of it 14 hours later: conditions with their times, events, the pods that were put out. */
  private layNodeTrouble(now: number): void {
    const { store, options } = this.world;
    const down = options.start - TROUBLED.before;
    const back = down + TROUBLED.notReady;
    this.world.change('nodes', undefined, TROUBLED.node, now, (node) => {
      for (const condition of node['status'].conditions) {
        if (condition.type === 'Ready') condition.lastTransitionTime = iso(back);
        if (condition.type === 'MemoryPressure') condition.lastTransitionTime = iso(back + 9 * MINUTE);
      }
    });
    const object = store.get('nodes', undefined, TROUBLED.node)!;
    const said = (reason: string, message: string, at: number, type: 'Normal' | 'Warning' = 'Normal') =>
      store.put('events', eventShape({ kind: 'Node', object }, reason, message, type, at, at, 1), now);
    said('NodeHasInsufficientMemory', `Node ${TROUBLED.node} is short of memory`, down - 5 * MINUTE, 'Warning');
    said('NodeNotReady', `Node ${TROUBLED.node} is not ready`, down, 'Warning');
    said('NodeReady', `Node ${TROUBLED.node} is ready`, back);
    for (const path of TROUBLED.evicted) {
      const [namespace = '', name = ''] = path.split('/');
      const plan = this.world.plan(namespace, name)!;
      const [set] = store
        .list('replicasets')
        .filter((one) => one.metadata.namespace === namespace && one.metadata.labels?.['app'] === name);
      const createdAt = options.start - 3 * DAY - (hashOf(name) % 1000);
      const pod = this.world.addPod(
        {
          plan,
          owner: { kind: 'ReplicaSet', name: set!.metadata.name, uid: set!.metadata.uid },
          name: `${set!.metadata.name}-${nameSuffix(`${path} evicted`, 5)}`,
          labels: { ...set!.metadata.labels },
          image: plan.image,
          createdAt,
          start: { is: 'running', since: createdAt + 4000 },
          node: TROUBLED.node,
        },
        now,
      );
      const message = 'The node was low on resource: memory.';
      const at = down - 2 * MINUTE;
      const evicted = endedPod(pod, { failed: true, reason: 'Evicted', message, code: 137, at, from: createdAt });
      store.put('pods', evicted, now);
      store.put('events', eventShape({ kind: 'Pod', object: evicted }, 'Evicted', message, 'Warning', at, at, 1), now);
      this.world.count(namespace, name, now);
    }
  }
}
