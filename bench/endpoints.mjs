// Thousands of endpoints, many of them hanging, failing or lying, one of two gigabytes and one of an endless line: how late
// the healthy ones are read, against the same number of healthy ones alone. npm run bench -- endpoints [endpoints] [minutes]
import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const SELF = fileURLToPath(import.meta.url);
const serving = process.argv[2] === 'serve';
const [ENDPOINTS = 5000, MINUTES = 2] = process.argv.slice(serving ? 3 : 2).map(Number);
const INTERVAL = 15_000;
const SERIES = 20;
const PORTS = 40;
const share = (part) => Math.round(ENDPOINTS * part);
const KINDS = { hang: share(0.1), fail: share(0.1), lie: share(0.05), huge: 1, line: 1 };
const BAD = Object.values(KINDS).reduce((sum, count) => sum + count, 0);

/** The outside: every kind on ports of its own, as they would be on machines of their own. */
async function serve() {
  const endless = (response, piece) => {
    response.writeHead(200, { 'content-type': 'text/plain' });
    let left = Math.ceil(2e9 / piece.length);
    const more = () => {
      while (left-- > 0) if (!response.write(piece)) return;
      response.end();
    };
    response.on('drain', more);
    response.on('error', () => undefined);
    more();
  };
  const answers = {
    good: (request, response) => {
      const now = Math.floor(Date.now() / 1000);
      const lines = Array.from({ length: SERIES }, (_, i) => `boats_${i}{quay="${request.url}"} ${now + i}`);
      response.writeHead(200, { 'content-type': 'text/plain' }).end(`${lines.join('\n')}\n`);
    },
    hang: () => undefined,
    fail: (_, response) => response.writeHead(500).end(),
    lie: (_, response) => response.writeHead(200, { 'content-type': 'text/html' }).end('<p>all is well</p>'),
    huge: (_, response) => endless(response, 'boats{quay="north"} 1\n'.repeat(3000)),
    line: (_, response) => endless(response, 'a'.repeat(65_536)),
  };
  const ports = {};
  for (const [kind, answer] of Object.entries(answers)) {
    ports[kind] = [];
    for (let i = 0; i < (kind === 'good' ? PORTS : Math.min(PORTS, KINDS[kind])); i++) {
      const server = createServer(answer);
      await new Promise((done) => server.listen(0, '127.0.0.1', done));
      ports[kind].push(server.address().port);
    }
  }
  process.send(ports);
  process.on('disconnect', () => process.exit(0));
}

async function run(bad, ports) {
  const { benchDatabase } = await import('./database.mjs');
  const { createApp } = await import('../apps/server/dist/bootstrap.js');
  const { readConfig } = await import('../apps/server/dist/ground/platform/config.js');
  const { EndpointsService } = await import('../apps/server/dist/inflow/scraping/endpoints.service.js');
  const { KnownEndpoints } = await import('../apps/server/dist/inflow/scraping/knownEndpoints.js');
  const { ReadingsService } = await import('../apps/server/dist/inflow/scraping/readings.service.js');
  const { url, end } = await benchDatabase();
  const folder = mkdtempSync(join(tmpdir(), 'zetopsis-bench-'));
  const app = await createApp(
    readConfig({
      ZETOPSIS_DATABASE_URL: url,
      ZETOPSIS_DATA_DIR: folder,
      ZETOPSIS_LOG_LEVEL: 'fatal',
      ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
    }),
  );
  await app.init();
  const endpoints = app.get(EndpointsService, { strict: false });
  const known = app.get(KnownEndpoints, { strict: false });
  const readings = app.get(ReadingsService, { strict: false });
  const kinds = Object.entries(bad ? KINDS : {}).flatMap(([kind, count]) => Array(count).fill(kind));
  const drafts = Array.from({ length: ENDPOINTS }, (_, i) => {
    const kind = kinds[i] ?? 'good';
    return {
      kind: 'given',
      connectionId: null,
      name: `${kind}-${i}`,
      namespace: null,
      scout: null,
      url: new URL(`http://127.0.0.1:${ports[kind][i % ports[kind].length]}/${i}`),
      through: null,
      proof: { by: 'nothing' },
      authority: '',
      intervalMs: INTERVAL,
      timeoutMs: null,
      dress: { attach: {}, drop: [] },
      use: 'read',
      as: null,
    };
  });
  const late = [];
  let warm = false;
  const fetched = readings.fetch.bind(readings);
  readings.fetch = (plan, timeout) => {
    const due = known.readers.get(plan.id)?.status.nextDueAt;
    if (warm && due && plan.name.startsWith('good')) late.push(Date.now() - due);
    return fetched(plan, timeout);
  };
  const began = Date.now();
  await endpoints.match(({ plan }) => plan.kind === 'given', drafts);
  const added = (Date.now() - began) / 1000;
  await new Promise((done) => setTimeout(done, 2 * INTERVAL));
  warm = true;
  await new Promise((done) => setTimeout(done, MINUTES * 60_000));
  const states = {};
  for (const { plan, status } of known.readers.values()) {
    const kind = plan.name.split('-')[0];
    states[kind] ??= {};
    states[kind][status.state] = (states[kind][status.state] ?? 0) + 1;
  }
  const memory = process.memoryUsage.rss();
  await app.close();
  await end();
  rmSync(folder, { recursive: true, force: true });
  late.sort((a, b) => a - b);
  const at = (part) => late[Math.floor((late.length - 1) * part)];
  return { p50: at(0.5), p99: at(0.99), most: at(1), readings: late.length, added, states, memory };
}

if (serving) await serve();
else {
  const { report } = await import('./measure.mjs');
  const outside = fork(SELF, ['serve', ...process.argv.slice(2)]);
  const ports = await new Promise((done) => outside.once('message', done));
  const alone = await run(false, ports);
  const among = await run(true, ports);
  report(
    `${ENDPOINTS} endpoints every ${INTERVAL / 1000} s`,
    `all healthy, p99 ${alone.p99} ms late`,
    `${among.p99} ms`,
    `target: p99 under 1 s; ${BAD} of them bad; median ${among.p50} ms, most ${among.most} ms, ${among.readings} readings; ${(among.memory / 1e9).toFixed(2)} GB; added in ${among.added.toFixed(1)} s`,
  );
  console.log(`  ${JSON.stringify(among.states)}`);
  outside.disconnect();
  process.exit(0);
}
