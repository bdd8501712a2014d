// npm run fuzz -- [MINUTES] [SEED]: everything that comes from outside, bent, for so many minutes of CPU time: pages, pushes in
// all encodings, objects and streams of a cluster, configuration files, and every route's path, query and body. Wrong is: an
// exception that is no refusal, an answer of 500, a stop of more than 250 ms, memory that does not come back. Ends with 1 then.
import { fork } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import pg from 'pg';
import protobuf from 'protobufjs';
import { PUSH_SCHEMA } from '../apps/server/dist/inflow/push/wire-names.js';
import { startStandIn } from '../apps/standin/dist/index.js';
import { freePort, startPostgres } from '../scripts/postgres.mjs';
import { decoders } from './decoders.mjs';
import { bend, randomFrom } from './random.mjs';
import { fitting, routes } from './schemas.mjs';

const MINUTES = Number(process.argv[2] ?? 2);
const SEED = Number(process.argv[3] ?? Date.now() % 1e9);
const LONGEST_STOP = 250; // ms
const PACE = 40; // ms between two requests: the limit by address is not what is tried here
const here = (path) => fileURLToPath(new URL(path, import.meta.url));
const pause = (ms) => new Promise((done) => setTimeout(done, ms));
console.log(`· fuzzing for ${MINUTES} CPU minutes; the same again: npm run fuzz -- ${MINUTES} ${SEED}`);
const random = randomFrom(SEED);
const { pick, chance, below } = random;
const bent = bend(random);
const problems = new Map();
const wrong = (what, detail) => {
  const known = problems.get(what) ?? { count: 0, detail };
  known.count++;
  problems.set(what, known);
  if (known.count === 1) console.log(`  WRONG ${what}\n    ${String(detail).slice(0, 1500)}`);
};

// ---- the world, the product ---------------------------------------------------------------------------------------------

const folder = mkdtempSync(join(tmpdir(), 'zetopsis-fuzz-'));
const world = await startStandIn({
  folder,
  seed: 'fuzz',
  start: Date.now(),
  pace: 1,
  basePort: 0,
  clusters: ['seaward'],
});
const [card] = world.card.clusters;
const files = readdirSync(folder, { recursive: true }).map(String);
const credentialsFile = files
  .filter((name) => name.endsWith('credentials.json'))
  .map((name) => join(folder, name))
  .find((name) => JSON.parse(readFileSync(name, 'utf8')).authority === card.authority);
const page = await (await fetch(`${world.card.control}/page?node=seaward-01&at=${Date.now()}`)).json();
const samples = {
  pages: [
    page,
    '# TYPE lamp counter\n# UNIT lamp_turns turns\nlamp_turns_total{lens="upper"} 3 # {trace_id="a"} 1 1.5\n# EOF\n',
  ],
  objects: [],
  files: [
    'zetopsis: 1\nteams:\n  tides:\n    name: Tides\n    email: tides@skerrivale.test\n    members: []\n    owns: []\n',
  ],
};
const postgres = await startPostgres({ name: 'fuzz-postgres', port: 25_960, durable: false });
const admin = new pg.Client(postgres.url);
await admin.connect();
await admin.query('drop database if exists fuzz with (force)');
await admin.query('create database fuzz');
await admin.end();
const port = await freePort(25_970);
const dataDir = join(folder, 'data');
const server = fork(here('../apps/server/dist/main.js'), [], {
  silent: true,
  execArgv: ['--expose-gc', '--import', here('../bench/loopWatch.mjs')],
  env: {
    ...process.env,
    ZETOPSIS_DATABASE_URL: postgres.url.replace(/\/[^/]*$/, '/fuzz'),
    ZETOPSIS_DATA_DIR: dataDir,
    ZETOPSIS_PORT: String(port),
    ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
    ZETOPSIS_LOG_LEVEL: 'error',
  },
});
let printed = '';
for (const stream of [server.stdout, server.stderr])
  stream.on('data', (text) => {
    printed = (printed + text).slice(-20_000);
    if (/"code":"uncaught"/.test(text)) wrong('an error that nobody caught', text);
  });
let ended = false;
server.once('exit', (status, signal) => {
  if (!ended) wrong('the server ended', `${status ?? signal}: ${printed}`);
});
// whoever ends this ends what it began: a server that goes on alone eats a core
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    ended = true;
    server.kill('SIGKILL');
    postgres.stop();
    process.exit(1);
  });
const serverSays = async (message) => {
  const answer = once(server, 'message');
  server.send(message);
  return (await Promise.race([answer, pause(20_000).then(() => [null])]))[0];
};
const base = `http://127.0.0.1:${port}`;
const codePrinted = () => /one-time code: (\S+)/.exec(printed)?.[1];
while (codePrinted() === undefined) {
  if (server.exitCode !== null) throw new Error(printed);
  await pause(100);
}

// ---- who asks ------------------------------------------------------------------------------------------------------------

const PASSWORD = 'a long fuzzing password';
class Asker {
  cookies = new Map();
  constructor(name, token = null) {
    this.name = name;
    this.token = token;
  }
  async ask(method, path, body, headers = {}) {
    const raw = body === undefined || typeof body === 'string' || Buffer.isBuffer(body);
    const response = await fetch(`${base}${path}`, {
      method,
      signal: AbortSignal.timeout(30_000),
      headers: {
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        ...(this.cookies.size > 0 ? { cookie: [...this.cookies].map((pair) => pair.join('=')).join('; ') } : {}),
        ...(this.token ? { authorization: `Bearer ${this.token}` } : {}),
        ...headers,
      },
      ...(body === undefined ? {} : { body: raw ? body : JSON.stringify(body) }),
    });
    for (const cookie of response.headers.getSetCookie()) {
      const [, name, value] = /^([^=]+)=([^;]*)/.exec(cookie) ?? [];
      if (name) this.cookies.set(name, value);
    }
    if (/event-stream/.test(response.headers.get('content-type') ?? '')) {
      await response.body.cancel();
      return { status: response.status, text: '' };
    }
    return { status: response.status, text: await response.text() };
  }
  async signIn() {
    return (await this.ask('POST', '/api/session', { name: this.name, password: PASSWORD })).status === 200;
  }
}
const parsed = ({ text }) => {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
};
const maren = new Asker('maren');
await maren.ask('POST', '/api/first-person', { code: codePrinted(), name: 'maren', password: PASSWORD });
const tove = new Asker('tove');
const stranger = new Asker('nobody');
const keeper = new Asker('keeper');
await maren.ask('POST', '/api/admin/people', { name: 'keeper', role: 'administrator', password: PASSWORD });
await keeper.signIn();

const hostile = fork(here('hostile.mjs'), [
  JSON.stringify({ seed: SEED + 1, api: card.address, credentialsFile, pages: samples.pages }),
]);
const [outside] = await once(hostile, 'message');

/** What was taken away by the fuzzing itself is put back, so that there is something to ask about. */
let pushToken = '';
async function setUp() {
  if ((await keeper.ask('GET', '/api/sources')).status === 401) await keeper.signIn();
  if ((await maren.ask('GET', '/api/sources')).status === 401 && !(await maren.signIn())) {
    const people = parsed(await keeper.ask('GET', '/api/admin/people')) ?? [];
    const id = people.find(({ name }) => name === 'maren')?.id;
    const again = { role: 'administrator', password: PASSWORD };
    if (id) await keeper.ask('PATCH', `/api/admin/people/${id}`, again);
    else await keeper.ask('POST', '/api/admin/people', { name: 'maren', ...again });
    await maren.signIn();
  }
  await keeper.ask('POST', '/api/admin/people', { name: 'tove', role: 'member', password: PASSWORD });
  await keeper.ask('POST', '/api/admin/grants', {
    person: 'tove',
    may: 'operate',
    cluster: 'seaward',
    namespace: 'ticketing',
  });
  if ((await tove.ask('GET', '/api/sources')).status === 401) await tove.signIn();
  const cluster = { token: card.token, authority: card.authority, environment: '', region: '', flavour: '' };
  const connected = new Set((parsed(await keeper.ask('GET', '/api/connections')) ?? []).map(({ name }) => name));
  for (const [name, address] of [
    ['seaward', card.address],
    ['mad', outside.api],
  ])
    if (!connected.has(name))
      await keeper.ask('POST', '/api/connections', {
        ...cluster,
        name,
        address,
        nodePage: { path: '/metrics', intervalSeconds: 2 },
      });
  await keeper.ask('POST', '/api/given', {
    endpoints: [1, 2, 3].map((i) => ({
      key: `mad-${i}`,
      document: {
        address: `${outside.page}/${i}`,
        intervalSeconds: 1,
        drop: [{ metric: '*a*b*', label: 'lens', is: '*u*p*e*r*' }],
      },
      secret: '',
    })),
  });
  const made = parsed(
    await keeper.ask('PUT', '/api/push-keys/mad', {
      cluster: null,
      namespace: null,
      team: null,
      labels: {},
      use: 'on',
    }),
  );
  if (made?.made) pushToken = made.made.token;
}
await setUp();
samples.objects.push(
  ...(await (async () => {
    const { request } = await import('undici');
    const { Agent } = await import('undici');
    const dispatcher = new Agent({ connect: { ca: card.authority } });
    const own = [];
    for (const path of [
      '/api/v1/pods?limit=30',
      '/api/v1/nodes?limit=5',
      '/api/v1/events?limit=20',
      '/apis/apps/v1/deployments?limit=20',
    ]) {
      const { body } = await request(`${card.address}${path}`, {
        dispatcher,
        headers: { authorization: `Bearer ${card.token}` },
      });
      own.push(...((await body.json()).items ?? []));
    }
    await dispatcher.close();
    return own;
  })()),
);
const written = parsed(await keeper.ask('GET', '/api/admin/configuration?as=yaml'));
if (written) samples.files.push(written.text);

// ---- what is asked -------------------------------------------------------------------------------------------------------

const all = await routes();
const known = {
  texts: ['seaward', 'ticketing', 'booking-front', 'mad', '1', 'tides', 'seaward-01', 'main', 'yaml', 'lamp', '*'],
  named: {
    in: [
      'seaward',
      'mad',
      'seaward/ticketing',
      'seaward/ticketing/deployment:booking-front',
      'seaward/node:seaward-01',
      'host:x',
      'seaward/team:x',
      '',
    ],
    clusters: ['environment:', 'region:x'],
    id: ['1', '2', '3', '40', '99999999999', '00000000-0000-4000-8000-000000000000'],
    key: ['mad', 'mad-1', 'seaward', 'pages', 'x'],
    address: [outside.api, outside.page, 'https://127.0.0.1:1', 'https://localhost:5432'],
    person: ['tove', 'nobody'],
    name: ['tove', 'lamp', 'seaward', 'mad'],
  },
  times: () => [Date.now() - 60_000, Date.now() - 3_600_000, 0, Date.now() + 1e9, Date.now() - 86_400_000 * 60, 1e15],
};
const SCHEMA = protobuf.Root.fromJSON(PUSH_SCHEMA);
const BINARY = { metrics: SCHEMA.lookupType('MetricsRequest'), logs: SCHEMA.lookupType('LogsRequest') };
const counts = {};
let lastAsked = '';

async function askRoute() {
  const route = pick(all);
  if (route.path.startsWith('/api/push/')) return push();
  // signing in is slowed down on purpose, and the keeper puts things back
  if (/^\/api\/(session|first-person)/.test(route.path) && route.method === 'POST' && chance(0.9)) return;
  const own = (schema, name) => {
    const fits = fitting(schema, random, known, name);
    return chance(0.25) ? bent.value(fits, pick([0.05, 0.3])) : fits;
  };
  const path = route.path.replaceAll(/:(\w+)/g, (_, name) => {
    const value = name in route.params ? own(route.params[name], name) : pick(known.named[name] ?? known.texts);
    return encodeURIComponent(String(value).toWellFormed?.() ?? value).slice(0, 300) || 'x';
  });
  const query = new URLSearchParams();
  for (const schema of route.query)
    for (const [name, value] of Object.entries(own(schema) ?? {}))
      if (value !== undefined && value !== null) query.append(String(name).slice(0, 100), String(value).slice(0, 3000));
  const wanted = route.body ? (own(route.body) ?? {}) : chance(0.1) ? bent.strange() : undefined;
  const body = route.method === 'GET' ? undefined : wanted;
  const asker = pick([maren, maren, maren, tove, tove, stranger]);
  const target = `${path}${query.size > 0 ? `?${query}` : ''}`;
  lastAsked = `${route.method} ${target} by ${asker.name} ${JSON.stringify(body)?.slice(0, 400) ?? ''}`;
  const name = `${route.method} ${route.path}`;
  const { status } = await asker.ask(route.method, target, body);
  counts[name] = (counts[name] ?? 0) + 1;
  if (status >= 500 && status !== 503) wrong(`${name} answered ${status}`, `${lastAsked}\n    ${printed.slice(-1500)}`);
  if (status === 401 && asker !== stranger && !path.startsWith('/api/session')) await setUp();
}
async function push() {
  const request = (kind) => ({
    resourceMetrics: [
      {
        resource: {
          attributes: [{ key: 'service.name', value: { stringValue: pick(['gate', 'lamp', bent.text('x')]) } }],
        },
        scopeMetrics: [
          {
            metrics: [
              {
                name: `lamp.${below(5)}`,
                [kind]: {
                  aggregationTemporality: 1 + below(2),
                  isMonotonic: true,
                  dataPoints: [
                    {
                      timeUnixNano: `${Date.now()}000000`,
                      asDouble: 1,
                      scale: below(31) - 10,
                      count: 2,
                      positive: { offset: pick([0, below(2 ** 31), -below(2 ** 31)]), bucketCounts: [1, 1] },
                      bucketCounts: [1, 1],
                      explicitBounds: [1],
                    },
                  ],
                },
              },
            ],
          },
        ],
      },
    ],
  });
  const signal = pick(['metrics', 'logs']);
  const own =
    signal === 'metrics'
      ? request(pick(['gauge', 'sum', 'histogram', 'exponentialHistogram', 'summary']))
      : {
          resourceLogs: [
            {
              resource: {
                attributes: [{ key: 'k8s.pod.name', value: { stringValue: pick(['mad-1', bent.text('x')]) } }],
              },
              scopeLogs: [
                {
                  logRecords: [
                    {
                      timeUnixNano: `${Date.now()}000000`,
                      severityNumber: below(30),
                      body: { stringValue: bent.text('level=warn msg="lamp out" token=x') },
                    },
                  ],
                },
              ],
            },
          ],
        };
  const form = pick(['json', 'binary', 'page']);
  let body;
  try {
    body =
      form === 'json'
        ? Buffer.from(JSON.stringify(bent.value(own, pick([0, 0.05, 0.2]))) ?? '')
        : form === 'binary'
          ? Buffer.from(BINARY[signal].encode(BINARY[signal].fromObject(own)).finish())
          : Buffer.from(chance(0.5) ? page : bent.text(page));
  } catch {
    return;
  }
  if (chance(0.3)) body = bent.bytes(body);
  const zipped = chance(0.3);
  if (zipped) body = chance(0.8) ? gzipSync(body) : bent.bytes(gzipSync(body));
  const type = { json: 'application/json', binary: 'application/x-protobuf', page: 'text/plain' }[form];
  const path = form === 'page' ? '/api/push/page/mad' : `/api/push/v1/${signal}`;
  lastAsked = `a push as ${form}`;
  const { status, text } = await stranger.ask('POST', path, body, {
    authorization: `Bearer ${chance(0.97) ? pushToken : 'wrong'}`,
    'content-type': type,
    ...(zipped ? { 'content-encoding': 'gzip' } : {}),
  });
  counts[`push ${form}`] = (counts[`push ${form}`] ?? 0) + 1;
  if (status >= 500 && status !== 503) wrong(`a push as ${form} answered ${status}`, text);
}

// ---- until the time is over ----------------------------------------------------------------------------------------------

const ticks = Number(process.env.CLOCK_TICKS ?? 100);
const cpuOf = (pid) => {
  try {
    const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ');
    return (Number(fields[11]) + Number(fields[12])) / ticks;
  } catch {
    return 0;
  }
};
const spent = () => (process.cpuUsage().user + process.cpuUsage().system) / 1e6 + cpuOf(server.pid);
const direct = decoders(random, samples);
const heaps = [];
let longestStop = { stop: 0, own: 0 };
const until = MINUTES * 60;
let looked = Date.now();
let minute = 0;
await serverSays('longest stop');
while (spent() < until && server.exitCode === null) {
  try {
    await askRoute();
  } catch (error) {
    if (
      server.exitCode === null &&
      !/aborted|timeout|fetch failed|invalid header|ByteString|malformed/i.test(
        `${error?.name} ${error?.message} ${error?.cause}`,
      )
    )
      wrong('asking failed', error?.stack ?? error);
    else if (/TimeoutError/.test(String(error?.name))) wrong('an answer took longer than 30 s', lastAsked);
  }
  const work = performance.now() + PACE / 2;
  while (performance.now() < work) {
    const problem = direct.once();
    if (problem) wrong(problem.split('\n')[0].replace(/\d+/g, 'N').slice(0, 120), problem);
  }
  await pause(PACE / 2);
  if (Date.now() - looked < 2000) continue;
  looked = Date.now();
  const said = await serverSays('longest stop');
  if (said) longestStop = { stop: Math.max(longestStop.stop, said.stop), own: Math.max(longestStop.own, said.own) };
  if (said && said.own > LONGEST_STOP)
    wrong('a stop', `${said.own.toFixed(0)} ms of its own in ${said.stop.toFixed(0)} ms; lately: ${lastAsked}`);
  if (Math.floor(spent() / 60) > minute) {
    minute = Math.floor(spent() / 60);
    const heap = await serverSays('heap');
    if (heap) heaps.push(heap.heap / 2 ** 20);
    console.log(
      `  ${minute} min: ${Object.values(counts).reduce((a, b) => a + b, 0)} requests, heap after collecting ${heaps.at(-1)?.toFixed(0)} MiB`,
    );
    await setUp();
  }
}
// what is kept of the last minutes is all there is: a second half that needs much more than the first does not come back
const half = heaps.slice(Math.floor(heaps.length / 2));
const early = Math.max(...heaps.slice(0, Math.ceil(heaps.length / 2)), 0);
if (heaps.length >= 6 && Math.min(...half) > early * 1.5 + 60)
  wrong('memory that does not come back', heaps.map((mib) => mib.toFixed(0)).join(', '));
const routesAsked = Object.keys(counts).length;
const total = Object.values(counts).reduce((a, b) => a + b, 0);
const decoded = Object.values(direct.counts).reduce((a, b) => a + b, 0);
console.log(
  `· seed ${SEED}: ${total} requests of ${routesAsked} kinds (${all.length} routes), ${decoded} calls of decoders (longest ${direct.longest.ms.toFixed(0)} ms, ${direct.longest.what}), longest stop ${longestStop.own.toFixed(0)} ms of its own (${longestStop.stop.toFixed(0)} ms by the clock), ${(spent() / 60).toFixed(1)} CPU minutes; ${problems.size} things wrong`,
);
for (const [what, { count, detail }] of problems) console.log(`  ${count} × ${what}: ${String(detail).slice(0, 300)}`);
ended = true;
server.kill('SIGTERM');
await once(server, 'exit').catch(() => undefined);
hostile.disconnect();
await world.close();
postgres.stop();
rmSync(folder, { recursive: true, force: true });
process.exit(problems.size === 0 ? 0 : 1);
