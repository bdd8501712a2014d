import type { ContainerHints, ContainerObject, PodObject } from '../inventory/index.ts';

/** What a container beside the main one is for. */
export const PURPOSES = ['start-up', 'forwarder of lines', 'collector', 'translator', 'proxy'] as const;
export type Purpose = (typeof PURPOSES)[number];
export interface TellsPurpose {
  readonly purpose: Purpose;
  /** What says so, in words; the strongest first. */
  readonly signs: readonly string[];
}
interface Sign {
  readonly of: Purpose;
  readonly weight: number;
  readonly words: string;
}

/** Where receivers of the open telemetry protocol listen. */
const PROTOCOL_PORTS: ReadonlySet<number> = new Set([4317, 4318]);
const METRICS_PORT = /metric|stats|pages/i;
const PROTOCOL_PORT = /otlp|telemetry|traces|spans/i;
/** So much must speak for one of them. */
const ENOUGH = 3;
const NO_HINTS: ContainerHints = { localPorts: [], says: [], mounts: [] };

/** The one that does the pod's work: the first, unless another bears the name of what keeps the pod. */
export function mainOf(pod: Pick<PodObject, 'containers'>, workload: string): ContainerObject | undefined {
  const mains = pod.containers.filter(({ role }) => role === 'main');
  return mains.find(({ name }) => name === workload) ?? mains[0];
}

/**
 * What a container beside the main one is for, by its ports, arguments, mounts and place in the pod; never by the name of its image. Null
 * of the main one, and where these say too little.
 */
export function purposeOf(
  pod: Pick<PodObject, 'containers'>,
  container: ContainerObject,
  workload: string,
): TellsPurpose | null {
  if (container.role === 'start-up') return { purpose: 'start-up', signs: ['it ends before the others begin'] };
  if (mainOf(pod, workload)?.name === container.name) return null;
  const signs = signsOf(pod, container);
  let best: TellsPurpose | null = null;
  let most = ENOUGH - 1;
  for (const purpose of PURPOSES) {
    const own = signs.filter(({ of }) => of === purpose).sort((a, b) => b.weight - a.weight);
    const weight = own.reduce((sum, one) => sum + one.weight, 0);
    if (weight <= most) continue;
    most = weight;
    best = { purpose, signs: own.filter((one) => one.weight > 0).map(({ words }) => words) };
  }
  return best;
}

function signsOf(pod: Pick<PodObject, 'containers'>, container: ContainerObject): Sign[] {
  const others = pod.containers.filter(({ name, role }) => name !== container.name && role !== 'start-up');
  const hints = container.hints ?? NO_HINTS;
  const names = container.portNames ?? [];
  const says = new Set(hints.says);
  const signs: Sign[] = [];
  const add = (of: Purpose, weight: number, words: string) => signs.push({ of, weight, words });

  // ---- lines
  const shared = hints.mounts.find(
    ({ volume, from }) =>
      from === 'shared' && others.some((other) => other.hints?.mounts.some((mount) => mount.volume === volume)),
  );
  const logsShared =
    shared !== undefined &&
    (shared.logs ||
      others.some((other) => other.hints?.mounts.some(({ volume, logs }) => volume === shared.volume && logs)));
  if (logsShared) add('forwarder of lines', 3, 'it has the directory in which another container writes its log files');
  if (hints.mounts.some(({ from, logs }) => from === 'host' && logs))
    add('forwarder of lines', 3, 'it has the node’s directory of log files');
  if (says.has('log files')) add('forwarder of lines', shared ? 3 : 1, 'its arguments name log files');

  // ---- telemetry
  const protocol = container.ports.find((port) => PROTOCOL_PORTS.has(port));
  if (protocol !== undefined) add('collector', 4, `it listens on port ${protocol}, as receivers of telemetry do`);
  else if (names.some((name) => PROTOCOL_PORT.test(name)))
    add('collector', 3, 'it has a port that is named after telemetry');
  if (says.has('telemetry')) add('collector', 1, 'its arguments name telemetry');
  if (hints.mounts.some(({ from }) => from === 'config') && (protocol !== undefined || says.has('telemetry')))
    add('collector', 1, 'it has settings of its own');

  // ---- on loopback
  const local =
    hints.localPorts.find((port) => others.some(({ ports }) => ports.includes(port))) ?? hints.localPorts[0];
  const metrics = names.some((name) => METRICS_PORT.test(name));
  const serves = container.ports.some((_, i) => !METRICS_PORT.test(names[i] ?? ''));
  if (local !== undefined) {
    const words = `it is told of port ${local} on the pod’s own loopback`;
    add('translator', metrics && !serves ? 3 : 1, words);
    add('proxy', metrics && !serves ? 1 : 3, words);
  }
  if (metrics) add('translator', 2, 'it has a port for metrics');
  if (says.has('reads another')) add('translator', 2, 'its arguments name what it reads from');
  if (says.has('hands on')) add('proxy', 2, 'its arguments name what it hands on to');
  if (serves && local !== undefined) add('proxy', 1, `it has a port of its own (${container.ports[0]})`);
  if (says.has('certificate') && hints.mounts.some(({ from }) => from === 'secret'))
    add('proxy', 2, 'it has certificates, and is told to use them');
  return signs;
}
