import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { createServer as createTlsServer, type Server as TlsServer } from 'node:https';
import { createServer as createRawServer, type Server as RawServer, type Socket } from 'node:net';
import type { Credentials } from '../tls/certificates.ts';
import { LABELS, METRICS } from '../wire-names.ts';
import { OPENMETRICS } from './podPrograms.ts';

const BASIC = { user: 'lamp', password: 'keeper of the light' } as const;
const BEARER = 'fog-horn-token';

/** Programs on machines outside all clusters, good and bad: each path of the plain port does one thing. */
export class HostPrograms {
  readonly plain: Server;
  /** Signed by the stand-in's own authority. */
  readonly tls: TlsServer;
  /** As `tls`, and wants a client certificate of the same authority. */
  readonly mutual: TlsServer;
  /** Speaks, but not HTTP. */
  readonly raw: RawServer;
  /** Set by tests: the page at /metrics is answered by these instead. */
  readonly instead = new Map<string, (response: ServerResponse) => void>();

  private readonly sockets = new Set<Socket>();

  constructor(credentials: Credentials) {
    const answer = (request: IncomingMessage, response: ServerResponse) => this.answer(request, response);
    const keys = { key: credentials.key, cert: credentials.certificate };
    this.plain = createServer(answer);
    this.tls = createTlsServer(keys, answer);
    this.mutual = createTlsServer(
      { ...keys, ca: credentials.authority, requestCert: true, rejectUnauthorized: true },
      answer,
    );
    this.raw = createRawServer((socket) => {
      socket.on('error', () => undefined);
      socket.end('220 the harbour radio speaks\r\n');
    });
    for (const server of [this.plain, this.tls, this.mutual, this.raw])
      server.on('connection', (socket: Socket) => {
        this.sockets.add(socket);
        socket.on('close', () => this.sockets.delete(socket));
      });
  }

  /** Ends every connection, also those that never got as far as a request. */
  destroy(): void {
    for (const socket of this.sockets) socket.destroy();
  }
  private answer(request: IncomingMessage, response: ServerResponse): void {
    const path = new URL(request.url ?? '/', 'http://host').pathname;
    const own = this.instead.get(path);
    if (own) {
      own(response);
      return;
    }
    const page = PAGES[path];
    if (page) page(request, response);
    else response.writeHead(404, { 'content-type': 'text/plain' }).end('nothing here\n');
  }
}

const openMetrics = (response: ServerResponse, body: string) =>
  response.writeHead(200, { 'content-type': OPENMETRICS }).end(body);
const plainText = (response: ServerResponse, body: string) =>
  response.writeHead(200, { 'content-type': 'text/plain; version=0.0.4' }).end(body);

/** A lamp that turns, and burns more at night. */
function lampPage(now = Date.now()): string {
  const watts = 400 + 250 * Math.cos((now / 86_400_000) * 2 * Math.PI);
  return [
    '# TYPE lamp_turns counter',
    '# HELP lamp_turns Turns of the lamp since it was lit.',
    `lamp_turns_total ${Math.floor(now / 12_000)}`,
    '# TYPE lamp_power_watts gauge',
    '# UNIT lamp_power_watts watts',
    `lamp_power_watts{lens="upper"} ${watts.toFixed(1)}`,
    `lamp_power_watts{lens="lower"} ${(watts * 0.6).toFixed(1)}`,
    '# TYPE host_memory_usage_bytes gauge',
    '# UNIT host_memory_usage_bytes bytes',
    `host_memory_usage_bytes ${3e9 + (Math.floor(now / 1000) % 4096)}`,
    '# EOF\n',
  ].join('\n');
}

/** The machine that the lamp stands on, by the conventions for systems: four processors, 8 GiB. */
function machinePage(now = Date.now()): string {
  const seconds = now / 1000;
  // its integral, so that the counter only grows: busier by night
  const busy = 0.9 * seconds + (0.5 * 86_400 * Math.sin((seconds / 86_400) * 2 * Math.PI)) / (2 * Math.PI);
  const used = 2.6e9 + 4e8 * Math.sin(seconds / 5400);
  return [
    '# TYPE system_cpu_time_seconds counter',
    '# UNIT system_cpu_time_seconds seconds',
    `system_cpu_time_seconds_total{cpu_mode="user"} ${(busy * 0.8).toFixed(2)}`,
    `system_cpu_time_seconds_total{cpu_mode="system"} ${(busy * 0.2).toFixed(2)}`,
    `system_cpu_time_seconds_total{cpu_mode="idle"} ${(4 * seconds - busy).toFixed(2)}`,
    '# TYPE system_cpu_logical_count gauge',
    'system_cpu_logical_count 4',
    '# TYPE system_memory_usage_bytes gauge',
    '# UNIT system_memory_usage_bytes bytes',
    `system_memory_usage_bytes{system_memory_state="used"} ${Math.round(used)}`,
    `system_memory_usage_bytes{system_memory_state="free"} ${Math.round(2 ** 33 - used)}`,
    '# TYPE system_network_io_bytes counter',
    '# UNIT system_network_io_bytes bytes',
    `system_network_io_bytes_total{network_io_direction="receive"} ${Math.floor(seconds * 5100)}`,
    `system_network_io_bytes_total{network_io_direction="transmit"} ${Math.floor(seconds * 900)}`,
    '# TYPE system_filesystem_usage_bytes gauge',
    '# UNIT system_filesystem_usage_bytes bytes',
    `system_filesystem_usage_bytes{system_filesystem_mountpoint="/",system_filesystem_state="used"} ${11_000_000_000 + (Math.floor(seconds) % 500_000) * 1000}`,
    `system_filesystem_usage_bytes{system_filesystem_mountpoint="/",system_filesystem_state="free"} ${29_000_000_000 - (Math.floor(seconds) % 500_000) * 1000}`,
    ...processesOf(busy),
    '# EOF\n',
  ].join('\n');
}

const PROCESSES = [
  { name: 'lamp-driver', pid: 512, share: 0.6, memory: 420_000_000, threads: 9, files: 44 },
  { name: 'fog-signal', pid: 634, share: 0.25, memory: 96_000_000, threads: 4, files: 21 },
] as const;
function processesOf(busy: number): string[] {
  const lines = ({
    name,
    type,
    unit,
    value,
  }: {
    readonly name: string;
    readonly type: string;
    readonly unit: string;
    readonly value: (one: (typeof PROCESSES)[number]) => string;
  }) => [
    `# TYPE ${name} ${type}`,
    ...(unit === '' ? [] : [`# UNIT ${name} ${unit}`]),
    ...PROCESSES.map(
      (one) =>
        `${name}${type === 'counter' ? '_total' : ''}{${LABELS.processName}="${one.name}",${LABELS.processPid}="${one.pid}"} ${value(one)}`,
    ),
  ];
  return [
    ...lines({
      name: METRICS.processCpu,
      type: 'counter',
      unit: 'seconds',
      value: ({ share }) => (busy * share).toFixed(2),
    }),
    ...lines({ name: METRICS.processMemory, type: 'gauge', unit: 'bytes', value: ({ memory }) => String(memory) }),
    ...lines({ name: METRICS.processThreads, type: 'gauge', unit: '', value: ({ threads }) => String(threads) }),
    ...lines({ name: METRICS.processFiles, type: 'gauge', unit: '', value: ({ files }) => String(files) }),
  ];
}

type Page = (request: IncomingMessage, response: ServerResponse) => void;
const PAGES: Readonly<Record<string, Page>> = {
  '/metrics': (_, response) => openMetrics(response, lampPage()),
  '/machine': (_, response) => openMetrics(response, machinePage()),
  '/plain': (_, response) =>
    plainText(
      response,
      '# TYPE crane_lifts_total counter\ncrane_lifts_total 42\ncrane_load_kilograms{crane="east"} 1250\n',
    ),
  '/': (_, response) =>
    response
      .writeHead(200, { 'content-type': 'text/html' })
      .end('<!doctype html><title>lamp</title><p>The lamp. <a href="/metrics">metrics</a></p>'),
  '/basic': (request, response) => {
    const wanted = `Basic ${Buffer.from(`${BASIC.user}:${BASIC.password}`).toString('base64')}`;
    if (request.headers.authorization === wanted) openMetrics(response, lampPage());
    else response.writeHead(401, { 'www-authenticate': 'Basic' }).end();
  },
  '/bearer': (request, response) => {
    if (request.headers.authorization === `Bearer ${BEARER}`) openMetrics(response, lampPage());
    else response.writeHead(401).end();
  },
  '/forbidden': (_, response) => response.writeHead(403).end(),
  '/redirect': (_, response) => response.writeHead(302, { location: '/metrics' }).end(),
  '/fails': (_, response) => response.writeHead(500).end(),
  '/hang': () => undefined,
  '/status.json': (_, response) =>
    response.writeHead(200, { 'content-type': 'application/json' }).end('{"lamp":"lit","lens":2}'),
  '/words': (_, response) => plainText(response, 'The lamp is lit.\nAll is well.\n'),
  '/torn': (_, response) => openMetrics(response, lampPage().replace('# EOF\n', '')),
  '/some-bad-lines': (_, response) =>
    plainText(
      response,
      '# TYPE crane_lifts_total counter\ncrane_lifts_total 42\ncrane_load_kilograms{crane="east} 1250\ncrane_load_kilograms ???\n',
    ),
  '/doubled': (_, response) => plainText(response, 'crane_lifts_total 42\ncrane_lifts_total 43\n'),
  '/drops': (_, response) => {
    response.writeHead(200, { 'content-type': OPENMETRICS });
    response.write('# TYPE lamp_turns counter\n');
    setTimeout(() => response.destroy(), 20);
  },
  '/endless-line': (_, response) => endless(response, 'a'.repeat(65_536)),
  '/huge': (_, response) => endless(response, `${'lamp_power_watts{lens="upper"} 1\n'.repeat(2000)}`),
};
/** Two gigabytes, as fast as they are taken. */
function endless(response: ServerResponse, piece: string): void {
  response.writeHead(200, { 'content-type': 'text/plain; version=0.0.4' });
  let left = Math.ceil(2e9 / piece.length);
  const more = () => {
    while (left-- > 0) if (!response.write(piece)) return;
    response.end();
  };
  response.on('drain', more);
  response.on('error', () => undefined);
  more();
}
