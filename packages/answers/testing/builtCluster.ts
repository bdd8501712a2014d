import type { CriticalityWords } from '@zetopsis/core/findings';
import {
  ClusterInventory,
  type InventoryKind,
  type InventoryObject,
  type JobObject,
  type ObjectChange,
  type PodObject,
  readObject,
  type WorkloadObject,
} from '@zetopsis/core/inventory';
import type { Samples } from '@zetopsis/core/samples';
import { HOUR } from '@zetopsis/core/units';
import { gridFor, type NodeSpan, type PodSpan, usageTree } from '@zetopsis/core/usage';
import { type PodState, readVolumes } from '../src/cluster/index.ts';
import { narrowUsage, type SeenUsage, UsageDetails, wholly } from '../src/usage/index.ts';

export const NOW = Date.parse('2026-11-25T09:00:00Z');
export const GIB = 2 ** 30;
const INTERVAL = 15_000;
const EMPTY: Samples = { times: [], values: [] };
export const iso = (at: number): string => new Date(at).toISOString();

interface PodLike {
  readonly workload: string;
  readonly kind?: 'Deployment' | 'StatefulSet' | 'DaemonSet';
  readonly node?: string | null;
  /** Cores and bytes in use all the time; of a container that is not told nothing is read. */
  readonly cpu?: number;
  readonly memory?: number;
  readonly requests?: Record<string, string>;
  readonly limits?: Record<string, string>;
  readonly ready?: boolean;
  /** State, last state, restarts of its container, as the API has them. */
  readonly status?: object;
  readonly phase?: string;
  readonly claim?: string;
  readonly from?: number;
  readonly to?: number | null;
  readonly labels?: Record<string, string>;
}

/** A cluster over three hours, made of what its API would have told and of what its pods would have used. */
export class BuiltCluster {
  readonly inventory = new ClusterInventory('c1', () => undefined);
  readonly window = { from: NOW - 3 * HOUR, to: NOW, live: true };
  private readonly pods: PodSpan[] = [];
  private readonly nodes: NodeSpan[] = [];
  private readonly sets: WorkloadObject[] = [];
  private readonly jobs: JobObject[] = [];
  private readonly states: PodState[] = [];
  private readonly used = new Map<string, { cpu: number; memory: number }>();
  private readonly volumeUse = new Map<string, { used: number; size: number }>();
  changes: ObjectChange[] = [];
  api: number[] = [];
  skews = new Map<string, number>();
  criticality: CriticalityWords = { label: 'criticality', places: [] };

  constructor(readonly name = 'seaward') {}

  object<K extends InventoryKind>({
    kind,
    name,
    namespace,
    rest = {},
    meta = {},
  }: {
    readonly kind: K;
    readonly name: string;
    readonly namespace: string | null;
    readonly rest?: object;
    readonly meta?: object;
  }): Extract<InventoryObject, { kind: K }> {
    const object = readObject(kind, {
      metadata: {
        name,
        ...(namespace === null ? {} : { namespace }),
        uid: `${kind} ${namespace ?? ''}/${name}`,
        creationTimestamp: iso(NOW - 48 * HOUR),
        ...meta,
      },
      ...rest,
    });
    this.inventory.restore(object!, NOW - 48 * HOUR); // it has an identity
    if (kind === 'replica set') this.sets.push(object as WorkloadObject);
    if (kind === 'job') this.jobs.push(object as JobObject);
    return object as Extract<InventoryObject, { kind: K }>; // read by its kind
  }
  namespace(name: string): this {
    this.object({ kind: 'namespace', name, namespace: null });
    return this;
  }
  node(name: string, { ready = true, cpu = '4', memory = '8Gi', pods = '30' } = {}): this {
    const node = this.object({
      kind: 'node',
      name,
      namespace: null,
      rest: {
        status: {
          allocatable: { cpu, memory, pods },
          conditions: [
            {
              type: 'Ready',
              status: ready ? 'True' : 'False',
              reason: ready ? 'AgentReady' : 'AgentLost',
              message: ready ? '' : 'the agent posts no status',
              lastTransitionTime: iso(NOW - 20 * 60_000),
            },
          ],
        },
      },
    });
    this.nodes.push({ node, from: node.createdAt, to: null });
    this.used.set(name, { cpu: 1, memory: 2 * GIB });
    return this;
  }
  deployment(
    namespace: string,
    name: string,
    more: { desired?: number; ready?: number; template?: object } = {},
  ): this {
    const { desired = 1, ready = desired, template = {} } = more;
    this.object({
      kind: 'deployment',
      name,
      namespace,
      rest: {
        spec: { replicas: desired, template },
        status: { replicas: desired, readyReplicas: ready, updatedReplicas: desired, availableReplicas: ready },
      },
    });
    this.object({
      kind: 'replica set',
      name: `${name}-1`,
      namespace,
      rest: { spec: { replicas: desired, template }, status: { replicas: desired, readyReplicas: ready } },
      meta: {
        ownerReferences: [{ kind: 'Deployment', name, uid: `deployment ${namespace}/${name}`, controller: true }],
      },
    });
    return this;
  }
  pod(namespace: string, name: string, of: PodLike): this {
    const { workload, kind = 'Deployment', node = null, ready = true, phase = 'Running', from = NOW - 24 * HOUR } = of;
    const owner =
      kind === 'Deployment'
        ? { kind: 'ReplicaSet', name: `${workload}-1`, uid: `replica set ${namespace}/${workload}-1` }
        : { kind, name: workload, uid: `${kind} ${namespace}/${workload}` };
    const pod = this.object({
      kind: 'pod',
      name,
      namespace,
      rest: {
        spec: {
          ...(node === null ? {} : { nodeName: node }),
          containers: [
            {
              name: 'main',
              image: `${workload}:1`,
              resources: { requests: of.requests ?? {}, limits: of.limits ?? {} },
            },
          ],
          ...(of.claim ? { volumes: [{ name: 'data', persistentVolumeClaim: { claimName: of.claim } }] } : {}),
        },
        status: {
          phase,
          conditions: [{ type: 'Ready', status: ready ? 'True' : 'False', lastTransitionTime: iso(NOW - HOUR) }],
          containerStatuses: [{ name: 'main', ready, state: { running: { startedAt: iso(from) } }, ...of.status }],
        },
      },
      meta: {
        creationTimestamp: iso(from),
        ownerReferences: [{ ...owner, controller: true }],
        labels: of.labels ?? {},
      },
    });
    const ref = this.inventory.workloadOf(pod);
    this.pods.push({ pod, workload: ref, from, to: of.to ?? null });
    this.states.push({ pod, from, to: of.to ?? null });
    if (of.cpu !== undefined || of.memory !== undefined)
      this.used.set(`${pod.uid}/main`, { cpu: of.cpu ?? 0, memory: of.memory ?? 0 });
    if (of.to != null) this.inventory.deleted(pod.uid, of.to, of.to);
    return this;
  }
  /** A state that the pod had before the one it has, until a moment. */
  state(pod: PodObject, until: number = NOW - HOUR): this {
    const now = this.states.findIndex((own) => own.pod.uid === pod.uid);
    const { from } = this.states[now]!; // it was made before
    this.states[now] = { ...this.states[now]!, from: until };
    this.states.unshift({ pod, from, to: until });
    return this;
  }
  /** Bytes on the volume that a pod mounts by its claim. */
  volume(claim: string, used: number, size: number): this {
    this.volumeUse.set(claim, { used, size });
    return this;
  }

  /** As one sees it who sees everything, or only these namespaces. */
  seen(sees?: (namespace: string) => boolean): SeenUsage {
    const { from, to } = this.window;
    const grid = gridFor(from, to, INTERVAL);
    const times = Array.from({ length: (to - from) / INTERVAL + 20 }, (_, i) => to - i * INTERVAL).reverse();
    const counter = (perSecond: number): Samples => ({ times, values: times.map((_, i) => i * perSecond * 15) });
    const level = (value: number): Samples => ({ times, values: times.map(() => value) });
    const of = (key: string, vital: string): Samples => {
      const own = this.used.get(key);
      if (!own || vital.endsWith('throttled') || vital.includes('inodes')) return EMPTY;
      return vital.endsWith('cpu.time') ? counter(own.cpu) : level(own.memory);
    };
    const input = {
      cluster: { name: this.name, uid: 'c1' },
      grid,
      interval: INTERVAL,
      pods: this.pods,
      nodes: this.nodes,
      containerSamples: (vital: string, uid: string, container: string) => of(`${uid}/${container}`, vital),
      nodeSamples: (vital: string, node: string) => of(node, vital),
    };
    const usage = {
      connectionId: 'c1',
      window: this.window,
      name: this.name,
      view: {
        inventory: this.inventory,
        pods: this.pods,
        nodes: this.nodes,
        replicaSets: this.sets,
        jobs: this.jobs,
        podStates: this.states,
        changes: this.changes,
      },
      tree: usageTree(input),
      input,
      api: this.api,
      skews: this.skews,
      criticality: this.criticality,
      details: new UsageDetails(),
      volumes: readVolumes({
        pods: this.pods,
        grid,
        interval: INTERVAL,
        samplesOf: (_, claim) => {
          const own = this.volumeUse.get(claim);
          return own
            ? { used: level(own.used), size: level(own.size), entriesUsed: EMPTY, entries: EMPTY }
            : { used: EMPTY, size: EMPTY, entriesUsed: EMPTY, entries: EMPTY };
        },
      }),
    };
    return sees === undefined ? wholly(usage) : narrowUsage(usage, sees);
  }
}

/** Two teams' namespaces on two nodes, one of them lost; one of everything that may stand in a namespace. */
export function harbour(): BuiltCluster {
  const half = { requests: { cpu: '500m', memory: '512Mi' }, limits: { cpu: '1', memory: '1Gi' } };
  const template = {
    spec: {
      containers: [{ name: 'main', image: 'front:1', envFrom: [{ configMapRef: { name: 'front-settings' } }] }],
      volumes: [{ name: 'key', secret: { secretName: 'front-key' } }],
    },
  };
  const cluster = new BuiltCluster()
    .node('seaward-01')
    .node('seaward-02', { ready: false })
    .namespace('ticketing')
    .namespace('tides')
    .namespace('quiet')
    .deployment('ticketing', 'front', { desired: 3, ready: 2, template })
    .deployment('ticketing', 'asleep', { desired: 0 })
    .deployment('tides', 'model', { desired: 1 })
    .pod('ticketing', 'front-1-a', {
      workload: 'front',
      node: 'seaward-01',
      cpu: 0.9,
      memory: 0.5 * GIB,
      labels: { app: 'front' },
      ...half,
    })
    .pod('ticketing', 'front-1-b', {
      workload: 'front',
      node: 'seaward-01',
      cpu: 0.2,
      memory: 0.95 * GIB,
      labels: { app: 'front' },
      ...half,
      status: {
        restartCount: 2,
        lastState: {
          terminated: {
            reason: 'OOMKilled',
            exitCode: 137,
            startedAt: iso(NOW - 2 * HOUR),
            finishedAt: iso(NOW - HOUR),
          },
        },
      },
    })
    .pod('ticketing', 'front-1-c', { workload: 'front', node: 'seaward-02', ready: false, ...half })
    .pod('tides', 'model-1-a', {
      workload: 'model',
      node: 'seaward-01',
      cpu: 0.5,
      memory: GIB,
      claim: 'tables',
      ...half,
    })
    .pod('tides', 'gone-1-a', {
      workload: 'gone',
      node: 'seaward-01',
      cpu: 0.1,
      memory: 0.1 * GIB,
      from: NOW - 3 * HOUR,
      to: NOW - HOUR,
    })
    .volume('tables', 9.5 * GIB, 10 * GIB);
  cluster.object({
    kind: 'service',
    name: 'front',
    namespace: 'ticketing',
    rest: {
      spec: { selector: { app: 'front' }, ports: [{ name: 'http', port: 80, targetPort: 8080 }] },
    },
  });
  cluster.object({
    kind: 'volume claim',
    name: 'tables',
    namespace: 'tides',
    rest: {
      spec: { volumeName: 'v1', resources: { requests: { storage: '10Gi' } } },
      status: { phase: 'Bound', capacity: { storage: '10Gi' } },
    },
  });
  cluster.object({
    kind: 'persistent volume',
    name: 'v1',
    namespace: null,
    rest: {
      spec: { capacity: { storage: '10Gi' }, claimRef: { namespace: 'tides', name: 'tables' } },
      status: { phase: 'Bound' },
    },
  });
  cluster.object({
    kind: 'quota',
    name: 'all',
    namespace: 'ticketing',
    rest: {
      spec: { hard: { 'limits.memory': '4Gi', pods: '4' } },
      status: { used: { 'limits.memory': '3.9Gi', pods: '3' } },
    },
  });
  cluster.object({
    kind: 'limit range',
    name: 'bounds',
    namespace: 'ticketing',
    rest: {
      spec: { limits: [{ type: 'Container', default: { cpu: '1' } }] },
    },
  });
  cluster.object({
    kind: 'autoscaler',
    name: 'front',
    namespace: 'ticketing',
    rest: {
      spec: {
        scaleTargetRef: { kind: 'Deployment', name: 'front' },
        minReplicas: 1,
        maxReplicas: 3,
        metrics: [{ type: 'Resource', resource: { name: 'cpu', target: { averageUtilization: 70 } } }],
      },
      status: { currentReplicas: 3, desiredReplicas: 3 },
    },
  });
  cluster.object({
    kind: 'disruption budget',
    name: 'front',
    namespace: 'ticketing',
    rest: {
      spec: { selector: { matchLabels: { app: 'front' } }, minAvailable: 2 },
      status: { currentHealthy: 2, desiredHealthy: 2, disruptionsAllowed: 0 },
    },
  });
  cluster.object({ kind: 'config map', name: 'front-settings', namespace: 'ticketing', rest: { data: { size: '3' } } });
  cluster.object({ kind: 'secret', name: 'front-key', namespace: 'ticketing' });
  cluster.object({
    kind: 'cron job',
    name: 'count',
    namespace: 'ticketing',
    rest: {
      spec: { schedule: '0 2 * * *', jobTemplate: { spec: { template: { spec: { containers: [] } } } } },
    },
  });
  return cluster;
}
