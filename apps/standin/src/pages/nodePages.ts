import type { IncomingMessage, ServerResponse } from 'node:http';
import { createServer, type Server } from 'node:https';
import type { Credentials } from '../tls/certificates.ts';
import { LABELS, METRICS } from '../wire-names.ts';
import type { Container } from '../world/readings.ts';
import { NODES } from '../world/scenario.ts';
import type { World } from '../world/world.ts';

interface FamilyPlan {
  readonly name: string;
  readonly type: 'counter' | 'gauge';
  readonly unit: string;
  readonly help: string;
  readonly of: 'container' | 'node';
  readonly value: (world: World, at: number, container: Container | null, node: string) => number;
}

const FAMILIES: readonly FamilyPlan[] = [
  {
    name: METRICS.containerCpu,
    type: 'counter',
    unit: 'seconds',
    help: 'Total CPU time consumed by the container.',
    of: 'container',
    value: (world, at, container) => world.readings.cpuSeconds(container!, at),
  },
  {
    name: METRICS.containerThrottled,
    type: 'counter',
    unit: 'seconds',
    help: 'Total time the container was throttled at its CPU limit.',
    of: 'container',
    value: (world, at, container) => world.readings.throttledSeconds(container!, at),
  },
  {
    name: METRICS.containerMemory,
    type: 'gauge',
    unit: 'bytes',
    help: 'Working set of the container.',
    of: 'container',
    value: (world, at, container) => world.readings.memoryBytes(container!, at),
  },
  {
    name: METRICS.nodeCpu,
    type: 'counter',
    unit: 'seconds',
    help: 'Total CPU time consumed by the node.',
    of: 'node',
    value: (world, at, _container, node) => world.readings.nodeCpuSeconds(node, at),
  },
  {
    name: METRICS.nodeMemory,
    type: 'gauge',
    unit: 'bytes',
    help: 'Working set of the node.',
    of: 'node',
    value: (world, at, _container, node) => world.readings.nodeMemoryBytes(node, at),
  },
];

const number = (value: number) => (Number.isInteger(value) ? String(value) : value.toFixed(6));
const quote = (text: string) => text.replace(/[\\"]/g, '\\$&').replace(/\n/g, '\\n');
const labelsOf = (pairs: Record<string, string>) =>
  `{${Object.entries(pairs)
    .map(([name, value]) => `${name}="${quote(value)}"`)
    .join(',')}}`;

function containersOn(world: World, node: string): Container[] {
  return world.store
    .list('pods')
    .filter((pod) => pod['spec'].nodeName === node)
    .flatMap((pod) => world.readings.containersOf(pod));
}

const containerLabels = (node: string, { pod, name }: Container) =>
  labelsOf({
    [LABELS.container]: name,
    [LABELS.namespace]: pod.metadata.namespace ?? '',
    [LABELS.node]: node,
    [LABELS.pod]: pod.metadata.name,
    [LABELS.podUid]: pod.metadata.uid,
  });

/** The node's page now, or its past at `times` (each line then bears its time). */
export function nodePage(world: World, node: string, now: number, times: readonly number[] | null): string {
  const containers = containersOn(world, node);
  const lines: string[] = [];
  for (const family of FAMILIES) {
    lines.push(
      `# TYPE ${family.name} ${family.type}`,
      `# UNIT ${family.name} ${family.unit}`,
      `# HELP ${family.name} ${family.help}`,
    );
    const sample = family.type === 'counter' ? `${family.name}_total` : family.name;
    for (const container of family.of === 'container' ? containers : [null]) {
      const labels = container ? containerLabels(node, container) : labelsOf({ [LABELS.node]: node });
      if (!times) lines.push(`${sample}${labels} ${number(family.value(world, now, container, node))}`);
      else {
        for (const at of times) {
          if (container && at < Date.parse(container.pod.metadata.creationTimestamp)) continue;
          lines.push(
            `${sample}${labels} ${number(family.value(world, at, container, node))} ${(at / 1000).toFixed(3)}`,
          );
        }
      }
    }
  }
  lines.push('# EOF', '');
  return lines.join('\n');
}

const OPENMETRICS = 'application/openmetrics-text; version=1.0.0; charset=utf-8';

/** One HTTPS listener for each node, with the cluster's certificate and token. */
export class NodePages {
  readonly servers: readonly Server[];
  /** Nodes whose page is answered with a failure, for tests. */
  readonly broken = new Map<string, 'refuse' | 'hang' | 'torn' | 'notMetrics'>();

  constructor(world: () => World, credentials: Credentials) {
    this.servers = NODES.map(({ name }) =>
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
      const from = Number(url.searchParams.get('from'));
      const to = Math.min(Number(url.searchParams.get('to')), now);
      const step = Number(url.searchParams.get('step'));
      if (!(from > 0 && to > from && step >= 1000 && (to - from) / step <= 5000)) {
        response
          .writeHead(400, { 'content-type': 'text/plain' })
          .end('from, to (ms) and step (ms, 1000 or more) give at most 5000 points\n');
        return;
      }
      const times = Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, i) => from + i * step);
      response.writeHead(200, { 'content-type': OPENMETRICS }).end(nodePage(world, node, now, times));
      return;
    }
    if (url.pathname !== '/metrics') {
      response.writeHead(404, { 'content-type': 'text/plain' }).end('the page is /metrics\n');
      return;
    }
    const page = nodePage(world, node, now, null);
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
