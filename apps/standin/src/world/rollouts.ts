import { REVISION_ANNOTATION } from '../wire-names.ts';
import { nameSuffix, shareOf } from './chance.ts';
import { amount, Controllers } from './controllers.ts';
import type { Inhabited } from './inhabited.ts';
import { type ApiObject, iso, managed } from './objects.ts';
import { BAD_RELEASE, type WorkloadPlan } from './scenario/index.ts';
import { eventShape } from './shapes/events.ts';
import { type PodStart, podStatus } from './shapes/pods.ts';
import { replicaSetShape } from './shapes/workloads.ts';

const imageOf = (object: ApiObject): string => object['spec'].template.spec.containers[0].image;
/** A letter for a digit: an image that is not there. */
const spoil = (image: string) => image.replace(/\d$/, 'l');
const isSpoilt = (image: string) => image.endsWith('l') && image.includes(':');

/** What deployments do when somebody asks for other pods: scaling, releases good and bad. */
export class Rollouts {
  private readonly world: Inhabited;
  private readonly controllers: Controllers;
  private numbered = 0;
  constructor(world: Inhabited) {
    this.world = world;
    this.controllers = new Controllers(world);
  }

  private setsOf(deployment: ApiObject): ApiObject[] {
    return this.world.store
      .list('replicasets')
      .filter((set) => set.metadata.ownerReferences?.[0]?.uid === deployment.metadata.uid);
  }

  /** Pods come as pending, start after about a second, and go at once. */
  scale(namespace: string, name: string, replicas: number, at: number): string | null {
    const plan = this.world.plan(namespace, name);
    const deployment = this.world.store.get('deployments', namespace, name);
    if (!plan || !deployment) return `no deployment ${namespace}/${name}`;
    if (!Number.isInteger(replicas) || replicas < 0 || replicas > 50)
      return 'replicas must be a whole number from 0 to 50';
    const image = imageOf(deployment);
    const set = this.setsOf(deployment).find((candidate) => imageOf(candidate) === image);
    if (!set) return 'its replica set is gone';
    this.wish({ kind: 'deployments', object: deployment, replicas, at });
    this.wish({ kind: 'replicasets', object: set, replicas, at });
    const pods = this.world.podsOf(namespace, name);
    for (const pod of pods.slice(replicas)) this.world.removePod(pod, at);
    this.addPods({ plan, set, image, many: replicas - pods.length, at });
    this.world.count(namespace, name, at);
    return null;
  }
  /** One pod less here, one more there, with the address of the one that went. */
  handAddress({
    from,
    to,
    at,
  }: {
    readonly from: { readonly namespace: string; readonly name: string };
    readonly to: { readonly namespace: string; readonly name: string };
    readonly at: number;
  }): string | null {
    const pods = this.world.podsOf(from.namespace, from.name);
    const address = pods.at(-1)?.['status'].podIP;
    if (address === undefined) return `no pod of ${from.namespace}/${from.name}`;
    const before = this.world.podsOf(to.namespace, to.name);
    const problem =
      this.scale(to.namespace, to.name, before.length + 1, at) ??
      this.scale(from.namespace, from.name, pods.length - 1, at);
    const known = new Set(before.map(({ metadata }) => metadata.uid));
    for (const { metadata } of this.world.podsOf(to.namespace, to.name))
      if (!known.has(metadata.uid))
        this.world.change('pods', metadata.namespace, metadata.name, at, (pod) => {
          pod['status'].podIP = address;
        });
    return problem;
  }
  private wish({
    kind,
    object,
    replicas,
    at,
  }: {
    readonly kind: 'deployments' | 'replicasets';
    readonly object: ApiObject;
    readonly replicas: number;
    readonly at: number;
  }): void {
    this.world.change(kind, object.metadata.namespace, object.metadata.name, at, (changed) => {
      changed['spec'].replicas = replicas;
      changed.metadata.generation = (changed.metadata.generation ?? 1) + 1;
      if (kind === 'deployments') changed.metadata.managedFields = [managed('somebody-by-hand', at)];
    });
  }

  /** As many as the namespace's quota lets in; the rest is refused, and the deployment says so. */
  addPods({
    plan,
    set,
    image,
    many,
    at,
  }: {
    readonly plan: WorkloadPlan;
    readonly set: ApiObject;
    readonly image: string;
    readonly many: number;
    readonly at: number;
  }): void {
    for (let i = 0; i < many; i++) {
      if (this.controllers.cpuLeft(plan.namespace) < amount(plan.cpu.request)) {
        this.refuse(plan, at);
        return;
      }
      this.numbered++;
      const pod = this.world.addPod(
        {
          plan,
          owner: { kind: 'ReplicaSet', name: set.metadata.name, uid: set.metadata.uid },
          name: `${set.metadata.name}-${nameSuffix(`${set.metadata.uid} ${at} ${this.numbered}`, 5)}`,
          labels: { ...set.metadata.labels },
          image,
          createdAt: at,
          start: isSpoilt(image) ? { is: 'imageMissing', since: at } : { is: 'starting' },
        },
        at,
      );
      const about = { kind: 'Pod', object: pod };
      this.world.store.put({
        kind: 'events',
        object: eventShape({
          about,
          reason: 'Scheduled',
          message: `Placed on ${pod['spec'].nodeName}`,
          type: 'Normal',
          firstAt: at,
          lastAt: at,
          count: 1,
        }),
        at,
      });
      if (isSpoilt(image))
        this.world.store.put({
          kind: 'events',
          object: eventShape({
            about,
            reason: 'Failed',
            message: `Failed to pull image "${image}": not found`,
            type: 'Warning',
            firstAt: at,
            lastAt: at,
            count: 1,
          }),
          at,
        });
      else this.world.after(700 + 600 * shareOf(pod.metadata.name), () => this.bringUp(pod, plan, image));
    }
  }
  /** Story 8: the quota of the namespace is spent. */
  refuse(plan: WorkloadPlan, at: number): void {
    const set = this.world.store
      .list('replicasets')
      .find((one) => one.metadata.namespace === plan.namespace && one.metadata.labels?.['app'] === plan.name);
    const message = `pods "${set?.metadata.name ?? plan.name}-" is forbidden: exceeded quota: compute, requested: requests.cpu=${plan.cpu.request}`;
    this.world.change('deployments', plan.namespace, plan.name, at, (deployment) => {
      const others = (deployment['status'].conditions ?? []).filter(
        ({ type }: { type: string }) => type !== 'ReplicaFailure',
      );
      deployment['status'].conditions = [
        ...others,
        { type: 'ReplicaFailure', status: 'True', reason: 'FailedCreate', message, lastTransitionTime: iso(at) },
      ];
    });
    if (set)
      this.world.store.put({
        kind: 'events',
        object: eventShape({
          about: { kind: 'ReplicaSet', object: set },
          reason: 'FailedCreate',
          message: `Error creating: ${message}`,
          type: 'Warning',
          firstAt: at,
          lastAt: at,
          count: 1,
        }),
        at,
      });
  }

  private bringUp(pod: ApiObject, plan: WorkloadPlan, image: string): void {
    this.restart({ pod, plan, image, restarts: 0 });
  }
  /** The pod's container runs from now on. */
  restart({
    pod,
    plan,
    image,
    restarts,
    lastState = {},
  }: {
    readonly pod: ApiObject;
    readonly plan: WorkloadPlan;
    readonly image: string;
    readonly restarts: number;
    readonly lastState?: object;
  }): void {
    const now = Date.now();
    const current = this.world.store.get('pods', pod.metadata.namespace, pod.metadata.name);
    if (current?.metadata.uid !== pod.metadata.uid) return;
    const created = Date.parse(current.metadata.creationTimestamp);
    const start: PodStart = { is: 'running', since: now };
    this.world.store.put({
      kind: 'pods',
      object: {
        ...structuredClone(current),
        status: {
          ...podStatus({ plan, image, name: pod.metadata.name, createdAt: created, start, restarts, lastState }),
          // it may have been given another one than its name says
          podIP: current['status'].podIP,
        },
      },
      at: now,
    });
    this.world.count(plan.namespace, plan.name, now);
  }

  /** A new version: two pods at a time are replaced; a bad one stops at the first two. */
  release({
    namespace,
    name,
    image,
    at,
  }: {
    readonly namespace: string;
    readonly name: string;
    readonly image: string;
    readonly at: number;
  }): string | null {
    const plan = this.world.plan(namespace, name);
    const deployment = this.world.store.get('deployments', namespace, name);
    if (!plan || !deployment) return `no deployment ${namespace}/${name}`;
    if (imageOf(deployment) === image) return 'it runs this image already';
    const replicas = deployment['spec'].replicas as number;
    const revision = Number(deployment.metadata.annotations?.[REVISION_ANNOTATION] ?? 1) + 1;
    this.world.change('deployments', namespace, name, at, (changed) => {
      changed['spec'].template.spec.containers[0].image = image;
      changed.metadata.generation = (changed.metadata.generation ?? 1) + 1;
      changed.metadata.annotations = { [REVISION_ANNOTATION]: String(revision) };
      changed.metadata.managedFields = [managed('harbour-delivery', at)];
    });
    const wished = this.world.store.get('deployments', namespace, name)!;
    const before = this.setsOf(wished);
    const same = before.find((set) => imageOf(set) === image);
    const share = isSpoilt(image) ? Math.min(2, replicas) : replicas;
    const set =
      same ??
      replicaSetShape({
        plan,
        deployment: wished,
        hash: nameSuffix(`${image} ${at}`, 9),
        createdAt: at,
        image,
        replicas: share,
      });
    if (!same) this.world.store.put({ kind: 'replicasets', object: set, at });
    else this.wish({ kind: 'replicasets', object: set, replicas: share, at });
    const old = this.world
      .podsOf(namespace, name)
      .filter((pod) => pod.metadata.ownerReferences?.[0]?.uid !== set.metadata.uid);
    const keep = replicas - share;
    // pods that never became ready go first
    const going = [...old]
      .sort((a, b) => Number(isSpoilt(podImage(b))) - Number(isSpoilt(podImage(a))))
      .slice(0, old.length - keep);
    for (const pod of going) this.world.removePod(pod, at);
    for (const other of before)
      if (other.metadata.uid !== set.metadata.uid)
        this.wish({ kind: 'replicasets', object: other, replicas: Math.max(0, keep), at });
    const present = this.world
      .podsOf(namespace, name)
      .filter((pod) => pod.metadata.ownerReferences?.[0]?.uid === set.metadata.uid).length;
    this.addPods({ plan, set, image, many: share - present, at });
    this.world.count(namespace, name, at);
    return null;
  }
  /** A config map is changed, and two minutes of the harbour's time later an image is rolled out that is not there. */
  badRelease(namespace: string, name: string, at: number): string | null {
    const deployment = this.world.store.get('deployments', namespace, name);
    if (!deployment) return `no deployment ${namespace}/${name}`;
    this.world.change('configmaps', namespace, `${name}-settings`, at, (settings) => {
      settings['data'] = {
        ...settings['data'],
        'log-level': settings['data']['log-level'] === 'info' ? 'debug' : 'info',
      };
      settings.metadata.managedFields = [managed('harbour-delivery', at)];
    });
    const bad = spoil(imageOf(deployment));
    this.world.after(Math.max(1000, this.world.paced(120_000)), () =>
      this.release({ namespace, name, image: bad, at: Date.now() }),
    );
    return null;
  }
  /** Back to an image that is there; for story 3 its own. */
  mendRelease(namespace: string, name: string, at: number): string | null {
    const plan = this.world.plan(namespace, name);
    if (!plan) return `no deployment ${namespace}/${name}`;
    return this.release({ namespace, name, image: name === BAD_RELEASE.name ? BAD_RELEASE.goodImage : plan.image, at });
  }
}

const podImage = (pod: ApiObject): string => pod['spec'].containers[0].image;
