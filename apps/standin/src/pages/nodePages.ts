import type { IncomingMessage, ServerResponse } from 'node:http';
import { createServer, type Server } from 'node:https';
import type { Credentials } from '../tls/certificates.ts';
import { LABELS, METRICS } from '../wire-names.ts';
import type { ApiObject } from '../world/objects.ts';
import type { Container } from '../world/readings.ts';
import type { World } from '../world/world.ts';
import type { Dialect } from './dialect.ts';

type Direction = 'receive' | 'transmit';
/** One line of a node's page: labels beyond the node's own, and the value at a moment. */
interface Sample {
  readonly labels: Record<string, string>;
  readonly since: number;
  readonly value: (at: number) => number;
}
interface FamilyPlan {
  readonly name: string;
  readonly type: 'counter' | 'gauge';
  readonly unit: string;
  readonly help: string;
  readonly samples: (world: World, node: string, now: number) => Sample[];
}

const podLabels = (pod: ApiObject) => ({
  [LABELS.namespace]: pod.metadata.namespace ?? '',
  [LABELS.pod]: pod.metadata.name,
  [LABELS.podUid]: pod.metadata.uid,
});
const bornAt = (pod: ApiObject) => Date.parse(pod.metadata.creationTimestamp);
const podsOn = (world: World, node: string) =>
  world.store.list('pods').filter((pod) => pod['spec'].nodeName === node && pod['status'].phase === 'Running');

const ofContainers =
  (value: (world: World, container: Container, at: number) => number): FamilyPlan['samples'] =>
  (world, node) =>
    podsOn(world, node)
      .flatMap((pod) => world.readings.containersOf(pod))
      .map((container) => ({
        labels: { [LABELS.container]: container.name, ...podLabels(container.pod) },
        since: bornAt(container.pod),
        value: (at) => value(world, container, at),
      }));
const ofNode =
  (value: (world: World, node: string, at: number) => number): FamilyPlan['samples'] =>
  (world, node) => [{ labels: {}, since: 0, value: (at) => value(world, node, at) }];
const bothWays = (samples: (direction: Direction) => Sample[]): Sample[] =>
  (['receive', 'transmit'] as const).flatMap((direction) =>
    samples(direction).map((sample) => ({ ...sample, labels: { ...sample.labels, [LABELS.direction]: direction } })),
  );
const ofProcesses =
  (pick: 'cpuSeconds' | 'memory' | 'threads' | 'files'): FamilyPlan['samples'] =>
  (world, node, now) =>
    world.readings.nodeProcesses(node, now).map(({ name, pid }, i) => ({
      labels: { [LABELS.processName]: name, [LABELS.processPid]: String(pid) },
      since: 0,
      value: (at) => world.readings.nodeProcesses(node, at)[i]![pick],
    }));
const ofVolumes =
  (pick: 'used' | 'size' | 'entriesUsed' | 'entries'): FamilyPlan['samples'] =>
  (world, node, now) =>
    podsOn(world, node).flatMap((pod) =>
      world.readings.volumesOf(pod, now).map(({ volume, claim }, i) => ({
        labels: { ...podLabels(pod), [LABELS.volume]: volume, [LABELS.claim]: claim },
        since: bornAt(pod),
        value: (at) => world.readings.volumesOf(pod, at)[i]![pick],
      })),
    );

const FAMILIES: readonly FamilyPlan[] = [
  {
    name: METRICS.containerCpu,
    type: 'counter',
    unit: 'seconds',
    help: 'Total CPU time consumed by the container.',
    samples: ofContainers((world, container, at) => world.readings.cpuSeconds(container, at)),
  },
  {
    name: METRICS.containerThrottled,
    type: 'counter',
    unit: 'seconds',
    help: 'Total time the container was throttled at its CPU limit.',
    samples: ofContainers((world, container, at) => world.readings.throttledSeconds(container, at)),
  },
  {
    name: METRICS.containerMemory,
    type: 'gauge',
    unit: 'bytes',
    help: 'Working set of the container.',
    samples: ofContainers((world, container, at) => world.readings.memoryBytes(container, at)),
  },
  {
    name: METRICS.containerFiles,
    type: 'gauge',
    unit: 'bytes',
    help: 'Space the container uses in its writable layer and logs.',
    samples: ofContainers((world, container, at) => world.readings.fileBytes(container, at)),
  },
  {
    name: METRICS.podNetwork,
    type: 'counter',
    unit: 'bytes',
    help: 'Total bytes the pod received or transmitted.',
    samples: (world, node) =>
      bothWays((direction) =>
        podsOn(world, node).map((pod) => ({
          labels: podLabels(pod),
          since: bornAt(pod),
          value: (at) => world.readings.networkBytes(pod, direction, at),
        })),
      ),
  },
  {
    name: METRICS.volumeUsed,
    type: 'gauge',
    unit: 'bytes',
    help: 'Bytes used on the volume.',
    samples: ofVolumes('used'),
  },
  { name: METRICS.volumeSize, type: 'gauge', unit: 'bytes', help: 'Size of the volume.', samples: ofVolumes('size') },
  {
    name: METRICS.nodeCpu,
    type: 'counter',
    unit: 'seconds',
    help: 'Total CPU time consumed by the node.',
    samples: ofNode((world, node, at) => world.readings.nodeCpuSeconds(node, at)),
  },
  {
    name: METRICS.nodeMemory,
    type: 'gauge',
    unit: 'bytes',
    help: 'Working set of the node.',
    samples: ofNode((world, node, at) => world.readings.nodeMemoryBytes(node, at)),
  },
  {
    name: METRICS.nodeNetwork,
    type: 'counter',
    unit: 'bytes',
    help: 'Total bytes the node received or transmitted.',
    samples: (world, node) =>
      bothWays((direction) => [
        { labels: {}, since: 0, value: (at) => world.readings.nodeNetworkBytes(node, direction, at) },
      ]),
  },
  {
    name: METRICS.nodeFiles,
    type: 'gauge',
    unit: 'bytes',
    help: 'Space used on the node.',
    samples: ofNode((world, node, at) => world.readings.nodeFiles(node, at).used),
  },
  {
    name: METRICS.nodeFilesSize,
    type: 'gauge',
    unit: 'bytes',
    help: 'Space on the node.',
    samples: ofNode((world, node, at) => world.readings.nodeFiles(node, at).size),
  },
  {
    name: METRICS.nodeEntriesUsed,
    type: 'gauge',
    unit: '',
    help: 'Entries used in the file system of the node.',
    samples: ofNode((world, node, at) => world.readings.nodeEntries(node, at).used),
  },
  {
    name: METRICS.nodeEntries,
    type: 'gauge',
    unit: '',
    help: 'Entries that the file system of the node has room for.',
    samples: ofNode((world, node, at) => world.readings.nodeEntries(node, at).count),
  },
  {
    name: METRICS.volumeEntriesUsed,
    type: 'gauge',
    unit: '',
    help: 'Entries used in the file system of the volume.',
    samples: ofVolumes('entriesUsed'),
  },
  {
    name: METRICS.volumeEntries,
    type: 'gauge',
    unit: '',
    help: 'Entries that the file system of the volume has room for.',
    samples: ofVolumes('entries'),
  },
  {
    name: METRICS.processCpu,
    type: 'counter',
    unit: 'seconds',
    help: 'CPU time of a process of the node itself.',
    samples: ofProcesses('cpuSeconds'),
  },
  {
    name: METRICS.processMemory,
    type: 'gauge',
    unit: 'bytes',
    help: 'Memory of a process of the node itself.',
    samples: ofProcesses('memory'),
  },
  {
    name: METRICS.processThreads,
    type: 'gauge',
    unit: '',
    help: 'Threads of a process of the node itself.',
    samples: ofProcesses('threads'),
  },
  {
    name: METRICS.processFiles,
    type: 'gauge',
    unit: '',
    help: 'Open files of a process of the node itself.',
    samples: ofProcesses('files'),
  },
];

const number = (value: number) => (Number.isInteger(value) ? String(value) : value.toFixed(6));
const quote = (text: string) => text.replace(/[\\"]/g, '\\$&').replace(/\n/g, '\\n');
const labelsOf = (pairs: Record<string, string>) =>
  `{${Object.entries(pairs)
    .map(([name, value]) => `${name}="${quote(value)}"`)
    .join(',')}}`;

const spoken = (labels: Record<string, string>, dialect: Dialect | null): Record<string, string> =>
  dialect === null
    ? labels
    : Object.fromEntries(
        Object.entries(labels).flatMap(([name, value]) => {
          const own = dialect.label(name);
          return own === null ? [] : [[own, value]];
        }),
      );

/** The node's page now, or its past at `times` (each line then bears its time, as the node's own clock has it). */
export function nodePage(
  world: World,
  node: string,
  now: number,
  times: readonly number[] | null,
  dialect: Dialect | null = null,
): string {
  const lines: string[] = [];
  const skew = world.incidents.skewOf(node);
  for (const family of FAMILIES) {
    const own = dialect ? dialect.metric(family.name) : { name: family.name, factor: 1, unit: family.unit };
    if (own === null) continue;
    lines.push(
      `# TYPE ${own.name} ${family.type}`,
      ...(own.unit === '' ? [] : [`# UNIT ${own.name} ${own.unit}`]),
      `# HELP ${own.name} ${family.help}`,
    );
    const name = family.type === 'counter' ? `${own.name}_total` : own.name;
    for (const { labels, since, value: inOurUnit } of family.samples(world, node, now)) {
      const value = (at: number) => inOurUnit(at) * own.factor;
      const head = `${name}${labelsOf(spoken({ ...labels, [LABELS.node]: node }, dialect))}`;
      // a node whose clock is wrong says so in every line
      if (!times)
        lines.push(`${head} ${number(value(now))}${skew === 0 ? '' : ` ${((now + skew) / 1000).toFixed(3)}`}`);
      else
        for (const at of times) if (at >= since) lines.push(`${head} ${number(value(at))} ${(at / 1000).toFixed(3)}`);
    }
  }
  lines.push('# EOF', '');
  return lines.join('\n');
}

export const TIMES_WORDS = 'from, to (ms) and step (ms, 1000 or more) give at most 5000 points';
/** Moments of the past that are asked for; null where they are not given well. */
export function timesAsked(query: URLSearchParams, now: number): number[] | null {
  const from = Number(query.get('from'));
  const to = Math.min(Number(query.get('to')), now);
  const step = Number(query.get('step'));
  if (!(from > 0 && to > from && step >= 1000 && (to - from) / step <= 5000)) return null;
  return Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, i) => from + i * step);
}

const OPENMETRICS = 'application/openmetrics-text; version=1.0.0; charset=utf-8';

/** One HTTPS listener for each node of a cluster, with its certificate and token. */
export class NodePages {
  readonly servers: readonly Server[];
  /** Nodes whose page is answered with a failure, for tests. */
  readonly broken = new Map<string, 'refuse' | 'hang' | 'torn' | 'notMetrics'>();

  /** Other names than ours, when set. */
  dialect: Dialect | null = null;

  constructor(world: () => World, nodes: readonly string[], credentials: Credentials) {
    this.servers = nodes.map((name) =>
      createServer({ key: credentials.key, cert: credentials.certificate }, (request, response) =>
        this.answer(world(), credentials, name, request, response),
      ),
    );
  }

  private answer(
    world: World,
    credentials: Credentials,
    node: string,
    request: IncomingMessage,
    response: ServerResponse,
  ): void {
    const url = new URL(request.url ?? '/', 'https://node');
    if (request.headers.authorization !== `Bearer ${credentials.token}`) {
      response.writeHead(401, { 'content-type': 'text/plain' }).end('Unauthorized\n');
      return;
    }
    const now = Date.now();
    if (url.pathname === '/history') {
      const times = timesAsked(url.searchParams, now);
      if (times === null) {
        response.writeHead(400, { 'content-type': 'text/plain' }).end(`${TIMES_WORDS}\n`);
        return;
      }
      response.writeHead(200, { 'content-type': OPENMETRICS }).end(nodePage(world, node, now, times, this.dialect));
      return;
    }
    if (url.pathname !== '/metrics') {
      response.writeHead(404, { 'content-type': 'text/plain' }).end('the page is /metrics\n');
      return;
    }
    if (world.incidents.isLost(node)) {
      request.socket.destroy();
      return;
    }
    const page = nodePage(world, node, now, null, this.dialect);
    switch (this.broken.get(node)) {
      case 'refuse':
        response.writeHead(503, { 'content-type': 'text/plain' }).end('the collector is starting\n');
        return;
      case 'hang':
        return;
      case 'torn':
        response.writeHead(200, { 'content-type': OPENMETRICS }).end(page.slice(0, page.length / 2));
        return;
      case 'notMetrics':
        response.writeHead(200, { 'content-type': 'text/html' }).end('<!doctype html><title>welcome</title>');
        return;
      case undefined:
        response.writeHead(200, { 'content-type': OPENMETRICS }).end(page);
    }
  }
}
