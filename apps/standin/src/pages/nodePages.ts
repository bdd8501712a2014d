import type { IncomingMessage, ServerResponse } from 'node:http';
import { createServer, type Server } from 'node:https';
import type { Credentials } from '../tls/certificates.ts';
import { LABELS } from '../wire-names.ts';
import type { World } from '../world/world.ts';
import type { Dialect } from './dialect.ts';
import { FAMILIES } from './nodeFamilies.ts';

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
export function nodePage({
  world,
  node,
  now,
  times,
  dialect = null,
}: {
  readonly world: World;
  readonly node: string;
  readonly now: number;
  readonly times: readonly number[] | null;
  readonly dialect?: Dialect | null;
}): string {
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
        this.answer({ world: world(), credentials, node: name, request, response }),
      ),
    );
  }

  private answer({
    world,
    credentials,
    node,
    request,
    response,
  }: {
    readonly world: World;
    readonly credentials: Credentials;
    readonly node: string;
    readonly request: IncomingMessage;
    readonly response: ServerResponse;
  }): void {
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
      response
        .writeHead(200, { 'content-type': OPENMETRICS })
        .end(nodePage({ world, node, now, times, dialect: this.dialect }));
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
    const page = nodePage({ world, node, now, times: null, dialect: this.dialect });
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
