import { TEAM_OF } from './people.ts';

/** What a cluster is made of before any story begins. */

interface Draw {
  /** Cores, or bytes; request and limit as the specification writes them. */
  readonly request: string;
  readonly limit: string | null;
  readonly use: number;
}
export interface WorkloadPlan {
  readonly namespace: string;
  readonly name: string;
  readonly kind: 'deployment' | 'statefulset' | 'daemonset' | 'cronjob';
  readonly replicas: number;
  readonly image: string;
  readonly cpu: Draw;
  readonly memory: Draw;
  /** Runs beside the main container. */
  readonly helper?: boolean;
  /** Runs before it. */
  readonly startUp?: boolean;
  /** Has a config map of its own, "NAME-settings". */
  readonly settings?: boolean;
  /** Has a secret of its own, "NAME-keys". */
  readonly keys?: boolean;
  /** Every pod of a stateful set has a volume of this size. */
  readonly volume?: { readonly size: string; readonly use: number; readonly perHour?: number };
  /** Of a cron job. */
  readonly schedule?: string;
  readonly runs?: RunsPlan;
  /** Annotation of its pods that says which pages they serve. */
  readonly serves?: string;
  /** Bytes received per second at the usual load. */
  readonly traffic?: number;
}
export interface RunsPlan {
  /** Time between runs, and how long one takes, in the harbour's own time (ms). */
  readonly every: number;
  readonly takes: number;
  /** Ends of the runs that are kept, oldest first. */
  readonly ends: readonly ('succeeded' | 'failed')[];
}

export interface NodePlan {
  readonly name: string;
  readonly zone: string;
  readonly nodeClass: keyof typeof NODE_CLASSES;
}
export interface QuotaPlan {
  readonly namespace: string;
  readonly name: string;
  readonly hard: Readonly<Record<string, string>>;
}
export interface ScalerPlan {
  readonly namespace: string;
  readonly name: string;
  readonly least: number;
  readonly most: number;
  readonly share: number;
  /** It would have more than it may. */
  readonly limited: boolean;
}
export interface BudgetPlan {
  readonly namespace: string;
  readonly name: string;
  readonly leastAvailable: number | string;
}

export interface ClusterPlan {
  readonly name: string;
  readonly environment: string;
  readonly region: string;
  readonly flavour: string;
  readonly nodes: readonly NodePlan[];
  readonly namespaces: readonly string[];
  readonly workloads: readonly WorkloadPlan[];
  readonly quotas: readonly QuotaPlan[];
  /** Namespaces with bounds for each container. */
  readonly bounded: readonly string[];
  readonly scalers: readonly ScalerPlan[];
  readonly budgets: readonly BudgetPlan[];
  readonly stories: ReadonlySet<Story>;
  /** What goes over the network, where nodes count it by address. */
  readonly wires?: readonly Wire[];
}
/** Each pod of one workload talks to each of another. */
export interface Wire {
  readonly from: string;
  readonly to: string;
  readonly port: number;
  /** Between two of their pods; what comes back is a third of it. */
  readonly bytesPerSecond: number;
}
export type Story = 'leak' | 'rush' | 'badRelease' | 'nodeTrouble' | 'quota';

export const Mi = 1024 * 1024;
export const Gi = 1024 * Mi;
export const MINUTE = 60_000;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;
export const REGISTRY = 'registry.skerrivale.test';

export const NODE_CLASSES = {
  broad: { cpu: '7750m', memory: String(30 * Gi), pods: 110, cores: 8, size: '32Gi', disk: 200 * Gi },
  tall: { cpu: '15500m', memory: String(61 * Gi), pods: 110, cores: 16, size: '64Gi', disk: 400 * Gi },
  small: { cpu: '3800m', memory: String(14 * Gi), pods: 60, cores: 4, size: '16Gi', disk: 100 * Gi },
} as const;

const ZONES = ['north-mole', 'south-mole', 'basin'];
export const nodesOf = (cluster: string, count: number, classOf: (i: number) => NodePlan['nodeClass']): NodePlan[] =>
  Array.from({ length: count }, (_, i) => ({
    name: `${cluster}-${String(i + 1).padStart(2, '0')}`,
    zone: ZONES[i % 3]!,
    nodeClass: classOf(i),
  }));

export const cpu = (request: string, limit: string | null, use: number): Draw => ({ request, limit, use });
export const memory = (request: string, limit: string | null, use: number): Draw => ({ request, limit, use });

/** "NAMESPACE/NAME" of any kind; the image follows from both. */
function workload(
  kind: WorkloadPlan['kind'],
  path: string,
  replicas: number,
  version: string,
  cpuDraw: Draw,
  memoryDraw: Draw,
  more: Partial<WorkloadPlan> = {},
): WorkloadPlan {
  const [namespace = '', name = ''] = path.split('/');
  const image = `${REGISTRY}/${TEAM_OF[namespace]}/${name}:${version}`;
  return { namespace, name, kind, replicas, image, cpu: cpuDraw, memory: memoryDraw, ...more };
}
type Rest = [replicas: number, version: string, cpu: Draw, memory: Draw, more?: Partial<WorkloadPlan>];
export const deployment = (path: string, ...rest: Rest): WorkloadPlan => workload('deployment', path, ...rest);
export const statefulSet = (path: string, ...rest: Rest): WorkloadPlan => workload('statefulset', path, ...rest);
export const daemonSet = ({
  path,
  version,
  cpuDraw,
  memoryDraw,
}: {
  readonly path: string;
  readonly version: string;
  readonly cpuDraw: Draw;
  readonly memoryDraw: Draw;
}): WorkloadPlan => workload('daemonset', path, 0, version, cpuDraw, memoryDraw);
export const cronJob = ({
  path,
  version,
  schedule,
  runs,
  more = {},
}: {
  readonly path: string;
  readonly version: string;
  readonly schedule: string;
  readonly runs: RunsPlan;
  readonly more?: Partial<WorkloadPlan>;
}): WorkloadPlan =>
  workload('cronjob', path, 0, version, cpu('200m', '500m', 0.3), memory('256Mi', '512Mi', 180 * Mi), {
    schedule,
    runs,
    ...more,
  });
