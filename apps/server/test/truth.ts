import type { StandIn } from '@zetopsis/standin';

type World = StandIn['world'];

/**
 * What every level of a cluster uses, asks for and may use, out of the stand-in's objects as they were and the formulas that
 * its pages are made from: arithmetic of its own, which shares nothing with the product.
 */
type Both<T> = Record<'cpu' | 'memory', T>;
export interface Told {
  readonly use: Both<number>;
  readonly request: Both<number>;
  /** Null: something in it has none. */
  readonly limit: Both<number | null>;
  readonly pods: number;
}
const RESOURCES = ['cpu', 'memory'] as const;
const SUFFIX: Record<string, number> = { m: 1e-3, Ki: 2 ** 10, Mi: 2 ** 20, Gi: 2 ** 30, Ti: 2 ** 40, k: 1e3, M: 1e6 };
export const amount = (text: string | undefined): number => {
  const [, number = '0', suffix = ''] = /^([\d.]+)(\w*)$/.exec(text ?? '0') ?? [];
  return Number(number) * (SUFFIX[suffix] ?? 1);
};

type Raw = ReturnType<World['podsOf']>[number];
/** A pod as the cluster API writes it. */
export interface RawPod {
  readonly spec: {
    readonly containers: readonly RawContainer[];
    readonly initContainers?: readonly RawContainer[];
    readonly overhead?: Record<string, string>;
  };
}
const specified = (pod: Raw): RawPod => pod as unknown as RawPod; // the stand-in writes what the API would
interface RawContainer {
  readonly name: string;
  readonly restartPolicy?: string;
  readonly resources?: { readonly requests?: Record<string, string>; readonly limits?: Record<string, string> };
}
const lasts = ({ restartPolicy }: RawContainer) => restartPolicy === 'Always';
const lasting = ({ spec }: RawPod): RawContainer[] => [
  ...spec.containers,
  ...(spec.initContainers ?? []).filter(lasts),
];

/** As the scheduler counts: what lasts together, or the largest start-up container beside what lasts, and the overhead. */
export function requestOf(pod: RawPod, resource: 'cpu' | 'memory'): number {
  const of = ({ resources }: RawContainer) => amount(resources?.requests?.[resource]);
  const first = pod.spec.initContainers ?? [];
  const starting = first.filter((one) => !lasts(one));
  const together = lasting(pod).reduce((sum, one) => sum + of(one), 0);
  const beside = first.filter(lasts).reduce((sum, one) => sum + of(one), 0);
  const start = starting.length === 0 ? 0 : Math.max(...starting.map(of)) + beside;
  return Math.max(together, start) + amount(pod.spec.overhead?.[resource]);
}
function limitOf(pod: RawPod, resource: 'cpu' | 'memory'): number | null {
  const bounds = lasting(pod).map(({ resources }) => resources?.limits?.[resource]);
  if (bounds.some((bound) => bound === undefined)) return null;
  return bounds.reduce((sum, bound) => sum + amount(bound), 0);
}

/** The objects of a kind as they were. */
const objectsAt = (world: World, kind: string, at: number): Raw[] =>
  [...world.store.at(at).values()].filter((one) => one.kind === kind).map(({ object }) => object as Raw);
const ended = (pod: Raw) => pod['status'].phase === 'Succeeded' || pod['status'].phase === 'Failed';

/** Cores over the last `over` ms, in steps of a second: a counter that began anew counts from 0. */
function cores(
  world: World,
  name: string,
  podsThen: (at: number) => Map<string, Raw>,
  uid: string,
  at: number,
  over: number,
) {
  const read = (moment: number) => {
    const pod = podsThen(moment).get(uid);
    const container = pod && world.readings.containersOf(pod).find((one) => one.name === name);
    return container ? { since: container.runsSince, spent: world.readings.cpuSeconds(container, moment) } : null;
  };
  let grown = 0;
  let before = read(at - over);
  const first = before ? at - over : null;
  let from = first;
  for (let moment = at - over + 1000; moment <= at; moment += 1000) {
    const now = read(moment);
    if (now && before) grown += now.since === before.since ? now.spent - before.spent : now.spent;
    if (now && from === null) from = moment;
    if (now) before = now;
  }
  return from === null || from >= at ? 0 : grown / ((at - from) / 1000);
}

/** By the path below the cluster, "" for itself: its namespaces, workloads, pods and containers. */
export function truthAt(world: World, at: number, over = 4000): Map<string, Told> {
  const states = new Map<number, Map<string, Raw>>();
  const podsThen = (moment: number) => {
    let known = states.get(moment);
    if (!known) {
      known = new Map(objectsAt(world, 'pods', moment).map((pod) => [pod.metadata.uid, pod]));
      states.set(moment, known);
    }
    return known;
  };
  const told = new Map<string, Told>();
  const add = (path: string, part: Told) => {
    const own = told.get(path);
    const both = <T>(of: (resource: 'cpu' | 'memory') => T): Both<T> => ({ cpu: of('cpu'), memory: of('memory') });
    told.set(path, {
      use: both((resource) => (own?.use[resource] ?? 0) + part.use[resource]),
      request: both((resource) => (own?.request[resource] ?? 0) + part.request[resource]),
      limit: both((resource) => {
        const [left, right] = [own ? own.limit[resource] : 0, part.limit[resource]];
        return left === null || right === null ? null : left + right;
      }),
      pods: (own?.pods ?? 0) + part.pods,
    });
  };
  const KEYS: Record<string, string> = {
    deployment: 'deployment',
    statefulset: 'stateful-set',
    daemonset: 'daemon-set',
    cronjob: 'cron-job',
  };
  for (const pod of podsThen(at).values()) {
    const plan = world.planOf(pod);
    if (!plan || ended(pod)) continue;
    const namespace = pod.metadata.namespace ?? '';
    const workload = `${namespace}/${KEYS[plan.kind]}:${plan.name}`;
    const path = `${workload}/${pod.metadata.name}`;
    const running = world.readings.containersOf(pod);
    const use = { cpu: 0, memory: 0 };
    for (const { name, resources } of lasting(specified(pod))) {
      const container = running.find((one) => one.name === name);
      const own = {
        cpu: container ? cores(world, name, podsThen, pod.metadata.uid, at, over) : 0,
        memory: container ? world.readings.memoryBytes(container, at) : 0,
      };
      for (const resource of RESOURCES) use[resource] += own[resource];
      const bound = (resource: 'cpu' | 'memory') =>
        resources?.limits?.[resource] === undefined ? null : amount(resources.limits[resource]);
      add(`${path}/${name}`, {
        use: own,
        request: { cpu: amount(resources?.requests?.['cpu']), memory: amount(resources?.requests?.['memory']) },
        limit: { cpu: bound('cpu'), memory: bound('memory') },
        pods: 0,
      });
    }
    const own: Told = {
      use,
      request: { cpu: requestOf(specified(pod), 'cpu'), memory: requestOf(specified(pod), 'memory') },
      limit: { cpu: limitOf(specified(pod), 'cpu'), memory: limitOf(specified(pod), 'memory') },
      pods: 1,
    };
    for (const level of [path, workload, namespace, '']) add(level, own);
  }
  // a quota bounds its namespace, what the nodes can give the cluster
  for (const { metadata, ...quota } of objectsAt(world, 'resourcequotas', at)) {
    const own = told.get(metadata.namespace ?? '');
    if (!own) continue;
    for (const resource of RESOURCES) {
      const hard = quota['spec'].hard[`limits.${resource}`] ?? quota['spec'].hard[`requests.${resource}`];
      if (hard !== undefined) own.limit[resource] = amount(hard);
    }
  }
  const nodes = objectsAt(world, 'nodes', at).filter((node) => node['spec'].unschedulable !== true);
  const whole = told.get('');
  if (whole)
    for (const resource of RESOURCES)
      whole.limit[resource] = nodes.reduce((sum, node) => sum + amount(node['status'].allocatable[resource]), 0);
  return told;
}
