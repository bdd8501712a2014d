import type { Inhabited } from './inhabited.ts';
import { type ApiObject, iso } from './objects.ts';
import { BAD_RELEASE, MINUTE } from './scenario/index.ts';
import { sliceShape } from './shapes/others.ts';
import { isReady } from './shapes/pods.ts';

const UNITS: Readonly<Record<string, number>> = { m: 0.001, Ki: 1024, Mi: 1024 ** 2, Gi: 1024 ** 3, '': 1 };
export function amount(text: string | undefined): number {
  const [, digits = '0', unit = ''] = /^([0-9.]+)(m|Ki|Mi|Gi)?$/.exec(text ?? '') ?? [];
  return Number(digits) * (UNITS[unit] ?? 1);
}
const ended = (pod: ApiObject) => ['Succeeded', 'Failed'].includes(pod['status'].phase);
const imageOf = (object: ApiObject): string => object['spec'].template.spec.containers[0].image;

/** Keeps counts, endpoint slices, quotas, scalers and budgets true to the pods there are. */
export class Controllers {
  private readonly world: Inhabited;
  constructor(world: Inhabited) {
    this.world = world;
  }

  count(namespace: string, name: string, at: number): void {
    const { world } = this;
    const pods = world.podsOf(namespace, name).filter((pod) => !ended(pod));
    const up = pods.filter(isReady).length;
    this.deployment({ namespace, name, pods, at });
    world.change('statefulsets', namespace, name, at, (set) => {
      set['status'] = {
        observedGeneration: set.metadata.generation,
        replicas: pods.length,
        readyReplicas: up,
        availableReplicas: up,
        currentReplicas: pods.length,
        updatedReplicas: pods.length,
        updateRevision: `${name}-1`,
      };
    });
    world.change('daemonsets', namespace, name, at, (set) => {
      set['status'] = {
        desiredNumberScheduled: world.options.plan.nodes.length,
        currentNumberScheduled: pods.length,
        numberReady: up,
        numberAvailable: up,
        updatedNumberScheduled: pods.length,
        numberMisscheduled: 0,
        observedGeneration: set.metadata.generation,
      };
    });
    const service = world.store.get('services', namespace, name);
    if (service)
      world.change('endpointslices', namespace, `${name}-1`, at, (slice) => {
        slice['endpoints'] = sliceShape(service, pods, world.seed)['endpoints'];
      });
    world.change('horizontalpodautoscalers', namespace, name, at, (scaler) => {
      scaler['status'].currentReplicas = pods.length;
    });
    world.change('poddisruptionbudgets', namespace, name, at, (budget) => {
      const { desiredHealthy } = budget['status'];
      Object.assign(budget['status'], { currentHealthy: up, disruptionsAllowed: Math.max(0, up - desiredHealthy) });
    });
    this.quotas(namespace, at);
  }

  private quotas(namespace: string, at: number): void {
    for (const quota of this.world.store.list('resourcequotas')) {
      if (quota.metadata.namespace !== namespace) continue;
      this.world.change('resourcequotas', namespace, quota.metadata.name, at, (changed) => {
        changed['status'].used = Object.fromEntries(
          Object.keys(changed['spec'].hard).map((resource) => [resource, this.spent(namespace, resource)]),
        );
      });
    }
  }
  /** As the quota's controller counts: pods that have not ended. */
  private spent(namespace: string, resource: string): string {
    const pods = this.world.store.list('pods').filter((pod) => pod.metadata.namespace === namespace && !ended(pod));
    if (resource === 'pods') return String(pods.length);
    const [side = '', what = ''] = resource.split('.');
    const sum = pods
      .flatMap((pod) => [
        ...pod['spec'].containers,
        ...(pod['spec'].initContainers ?? []).filter(
          (one: { restartPolicy?: string }) => one.restartPolicy === 'Always',
        ),
      ])
      .reduce((total, container) => total + amount(container.resources?.[side]?.[what]), 0);
    return what === 'cpu' ? `${Math.round(sum * 1000)}m` : String(Math.round(sum));
  }
  /** What is left of a quota for CPU requests; infinite where there is none. */
  cpuLeft(namespace: string): number {
    const quota = this.world.store
      .list('resourcequotas')
      .find((one) => one.metadata.namespace === namespace && one['spec'].hard['requests.cpu'] !== undefined);
    if (!quota) return Number.POSITIVE_INFINITY;
    return amount(quota['spec'].hard['requests.cpu']) - amount(this.spent(namespace, 'requests.cpu'));
  }

  private deployment({
    namespace,
    name,
    pods,
    at,
  }: {
    readonly namespace: string;
    readonly name: string;
    readonly pods: readonly ApiObject[];
    readonly at: number;
  }): void {
    const { store } = this.world;
    const deployment = store.get('deployments', namespace, name);
    if (!deployment) return;
    const sets = store
      .list('replicasets')
      .filter((set) => set.metadata.ownerReferences?.[0]?.uid === deployment.metadata.uid);
    const image = imageOf(deployment);
    let updated = 0;
    for (const set of sets) {
      const own = pods.filter((pod) => pod.metadata.ownerReferences?.[0]?.uid === set.metadata.uid);
      const up = own.filter(isReady).length;
      this.world.change('replicasets', namespace, set.metadata.name, at, (changed) => {
        changed['status'] = {
          replicas: own.length,
          fullyLabeledReplicas: own.length,
          readyReplicas: up,
          availableReplicas: up,
          observedGeneration: set.metadata.generation,
        };
      });
      if (imageOf(set) === image) updated += own.length;
    }
    const ready = pods.filter(isReady).length;
    this.world.change('deployments', namespace, name, at, (changed) => {
      const refused = changed['status'].conditions?.find(({ type }: { type: string }) => type === 'ReplicaFailure');
      changed['status'] = {
        observedGeneration: changed.metadata.generation,
        replicas: pods.length,
        updatedReplicas: updated,
        readyReplicas: ready,
        availableReplicas: ready,
        unavailableReplicas: Math.max(0, changed['spec'].replicas - ready),
        conditions: [
          ...this.conditions(changed, sets, image.endsWith(BAD_TAG)),
          ...(refused && pods.length < changed['spec'].replicas ? [refused] : []),
        ],
      };
    });
  }

  private conditions(deployment: ApiObject, sets: readonly ApiObject[], stuck: boolean): object[] {
    const created = Date.parse(deployment.metadata.creationTimestamp);
    const newest = sets.map((set) => Date.parse(set.metadata.creationTimestamp)).sort((a, b) => b - a)[0] ?? created;
    const late = newest + this.world.paced(10 * MINUTE);
    return [
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
            lastUpdateTime: iso(late),
            lastTransitionTime: iso(late),
          }
        : {
            type: 'Progressing',
            status: 'True',
            reason: 'NewReplicaSetAvailable',
            message: 'The newest replica set is complete.',
            lastUpdateTime: iso(created),
            lastTransitionTime: iso(created),
          },
    ];
  }
}

/** The slip of the pen in every bad release: a letter for a digit. */
const BAD_TAG = BAD_RELEASE.badImage.slice(BAD_RELEASE.badImage.lastIndexOf('.'));
