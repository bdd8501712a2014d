// npm run storm -- [MINUTES] [SEED]: the product under the load of the demo while the server is killed (kill -9), PostgreSQL is
// stopped at once, its disk (a real one, and small) is full, and the server's clock is an hour wrong. At the end every reading
// and every push that was said to be taken is there once, every message went out, and everything that was wrong was said.
import { execFileSync, fork } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pg from 'pg';
import { startStandIn } from '../apps/standin/dist/index.js';
import { decodeChunk, decodeFrame } from '../packages/core/dist/samples/index.js';
import { folderFor, freePort, startPostgres } from '../scripts/postgres.mjs';
import { randomFrom } from './random.mjs';

const MINUTES = Number(process.argv[2] ?? 30);
const SEED = Number(process.argv[3] ?? Date.now() % 1e9);
/** Over 30 minutes. */
const KILLS = Math.max(1, Math.round((20 * MINUTES) / 30));
const STOPS = Math.max(1, Math.round((20 * MINUTES) / 30));
const FULL = Math.max(1, Math.round((2 * MINUTES) / 30));
const STEPS = Math.max(2, Math.round((4 * MINUTES) / 30));
const HOUR = 3_600_000;
const { below, next } = randomFrom(SEED);
const pause = (ms) => new Promise((done) => setTimeout(done, ms));
const say = (text) => console.log(`  ${((Date.now() - began) / 60_000).toFixed(1)} min  ${text}`);
const began = Date.now();
console.log(
  `· a storm of ${MINUTES} minutes, seed ${SEED}: ${KILLS} kills, ${STOPS} stops of PostgreSQL, disk full ${FULL} ×, ${STEPS} steps of the clock`,
);

const folder = mkdtempSync(join(tmpdir(), 'zetopsis-storm-'));
const world = await startStandIn({ folder, seed: 'storm', start: Date.now(), pace: 1, basePort: 0 });
// a file system of its own, where the machine lets us have one
const disk = folderFor('storm-postgres');
mkdirSync(disk, { recursive: true });
let mounted = false;
try {
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=1200m,mode=0755', 'tmpfs', disk], { stdio: 'ignore' });
  mounted = true;
} catch {
  console.log('  no file system can be mounted here: the disk is not filled');
}
const PG = { name: 'storm-postgres', port: 25_980 };
let postgres = await startPostgres(PG);
const query = async (text, values = []) => {
  const client = new pg.Client(postgres.url);
  await client.connect();
  try {
    return (await client.query(text, values)).rows;
  } finally {
    await client.end();
  }
};
const port = await freePort(25_990);
const base = `http://127.0.0.1:${port}`;
let server;
let log = '';
let clockOff = 0;
let ended = false;
async function start() {
  server = fork(fileURLToPath(new URL('../apps/server/dist/main.js', import.meta.url)), [], {
    silent: true,
    execArgv: ['--import', fileURLToPath(new URL('clockStep.mjs', import.meta.url))],
    env: {
      ...process.env,
      ZETOPSIS_DATABASE_URL: postgres.url,
      ZETOPSIS_DATA_DIR: join(folder, 'data'),
      ZETOPSIS_PORT: String(port),
      ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
      ZETOPSIS_SMTP_URL: `smtp://${world.card.smtp.host}:${world.card.smtp.port}`,
      ZETOPSIS_LOG_LEVEL: 'error',
    },
  });
  const own = server;
  for (const stream of [own.stdout, own.stderr]) stream.on('data', (text) => (log = (log + text).slice(-200_000)));
  own.once('exit', (code, signal) => {
    if (server === own && !ended && signal !== 'SIGKILL')
      say(`the server ended by itself: ${code ?? signal} ${log.slice(-600)}`);
  });
  for (let tries = 0; tries < 300; tries++) {
    if (own.exitCode !== null) return false;
    if ((await fetch(`${base}/api/session`).catch(() => null))?.ok) {
      own.send({ clockOff });
      return true;
    }
    await pause(100);
  }
  return false;
}
/** PostgreSQL may be away just now: it is started again and again until it stays. */
async function startUntilItRuns() {
  while (!(await start())) {
    server.kill('SIGKILL');
    await pause(1000);
  }
}
await startUntilItRuns();
const cookies = new Map();
const ask = async (method, path, body) => {
  const response = await fetch(`${base}/api/${path}`, {
    method,
    signal: AbortSignal.timeout(10_000),
    headers: {
      cookie: [...cookies].map((pair) => pair.join('=')).join('; '),
      ...(body ? { 'content-type': 'application/json' } : {}),
    },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
  for (const cookie of response.headers.getSetCookie()) {
    const [, name, value] = /^([^=]+)=([^;]*)/.exec(cookie) ?? [];
    if (name) cookies.set(name, value);
  }
  const text = await response.text();
  if (!response.ok)
    throw Object.assign(new Error(`${path}: ${response.status} ${text.slice(0, 200)}`), { status: response.status });
  return text === '' ? null : JSON.parse(text);
};
const password = 'a long stormy password';
await ask('POST', 'first-person', { code: /one-time code: (\S+)/.exec(log)[1], name: 'maren', password });
for (const team of world.card.teams)
  await ask('POST', 'admin/teams', { ...team, members: [] }).catch((error) => say(error.message));
for (const { name, address, token, authority } of world.card.clusters)
  await ask('POST', 'connections', {
    name,
    address,
    token,
    authority,
    nodePage: { path: '/metrics', intervalSeconds: 2 },
    environment: '',
    region: '',
    flavour: '',
  });
const { made } = await ask('PUT', 'push-keys/storm', {
  cluster: null,
  namespace: null,
  team: null,
  labels: {},
  use: 'on',
});

// ---- what is said to be taken -------------------------------------------------------------------------------------------

/** endpoint → times of readings that the product said it has. */
const said = new Map();
const pushed = new Set();
const words = new Map();
const note = (text) => words.set(text.replace(/\d+/g, 'N'), (words.get(text.replace(/\d+/g, 'N')) ?? 0) + 1);
let wrong = 0;
let failedAnswers = 0;
async function listen() {
  try {
    const { endpoints, store } = await ask('GET', 'sources');
    for (const { id, lastReadingAt, lastError } of endpoints) {
      if (lastReadingAt !== null) said.set(id, (said.get(id) ?? new Set()).add(lastReadingAt));
      if (lastError) note(`endpoint: ${lastError}`);
    }
    if (store.problem) note(`store: ${store.problem}`);
    for (const { what, reason } of (await ask('GET', `now?from=${Date.now() + clockOff - HOUR}`)).blind)
      note(`now: ${what.replace(/^.*›.*$/, 'an endpoint')}: ${reason}`);
  } catch (error) {
    if (error.status === 401) await ask('POST', 'session', { name: 'maren', password }).catch(() => undefined);
    else if (error.status === 500) {
      failedAnswers++;
      note(`answer: ${error.message}`);
    } else if (error.status) note(`answer: ${error.message}`);
  }
}
let value = 0;
async function push() {
  const own = ++value;
  const response = await fetch(`${base}/api/push/page/storm`, {
    method: 'POST',
    signal: AbortSignal.timeout(20_000),
    headers: { authorization: `Bearer ${made.token}`, 'content-type': 'text/plain' },
    body: `storm_waves ${own}\n`,
  }).catch(() => null);
  if (response?.status === 200) pushed.add(own);
  else if (response) note(`push: ${response.status} ${(await response.text()).slice(0, 160)}`);
}

// ---- the storm ----------------------------------------------------------------------------------------------------------

let calm = false;
const observers = [
  (async () => {
    while (!calm) {
      await listen();
      await pause(250);
    }
  })(),
  (async () => {
    while (!calm) {
      await push();
      await pause(300);
    }
  })(),
];
const done = { kills: 0, stops: 0, full: 0, steps: 0 };
async function kill() {
  server.kill('SIGKILL');
  await once(server, 'exit');
  await startUntilItRuns();
  done.kills++;
}
async function stop() {
  postgres.crash();
  await pause(500 + below(4000));
  postgres = await startPostgres(PG);
  done.stops++;
}
async function fill() {
  if (!mounted) return;
  const { bavail, bsize } = statfsSync(disk);
  const filler = join(disk, 'filler');
  writeFileSync(filler, Buffer.alloc(Math.max(0, bavail * bsize - 2 ** 20)));
  say('the disk is full');
  await pause(15_000);
  rmSync(filler);
  // a log that could not be written stops PostgreSQL itself
  if ((await query('select 1').catch(() => null)) === null) postgres = await startPostgres(PG);
  done.full++;
}
async function step() {
  clockOff = clockOff === 0 ? (next() < 0.5 ? HOUR : -HOUR) : 0;
  server.send({ clockOff });
  say(`the clock of the server is ${clockOff / HOUR} h off`);
  done.steps++;
}
const events = [
  ...Array(KILLS).fill(kill),
  ...Array(STOPS).fill(stop),
  ...Array(FULL).fill(fill),
  ...Array(STEPS).fill(step),
].map((work) => ({ work, order: next() }));
events.sort((a, b) => a.order - b.order);
const each = (MINUTES * 60_000) / (events.length + 2);
await pause(each);
for (const [i, { work }] of events.entries()) {
  const due = began + (i + 2) * each;
  try {
    await work();
  } catch (error) {
    wrong++;
    say(`WRONG ${work.name}: ${error.message}`);
  }
  if (i % 10 === 9)
    say(
      `${done.kills} kills, ${done.stops} stops, ${[...said.values()].reduce((sum, { size }) => sum + size, 0)} readings and ${pushed.size} pushes said to be taken`,
    );
  await pause(Math.max(0, due - Date.now()));
}
if (clockOff !== 0) await step();
// ---- afterwards ---------------------------------------------------------------------------------------------------------
for (let tries = 0; tries < 120; tries++) {
  const sources = await ask('GET', 'sources').catch(() => null);
  if (sources && sources.store.problem === null && sources.store.waiting === 0 && sources.store.heldBy === null) break;
  await pause(1000);
}
await pause(10_000);
calm = true;
await Promise.all(observers);
const { store } = await ask('GET', 'sources');

const kept = new Map();
let doubled = 0;
const keep = (endpoint, at) => {
  const own = kept.get(endpoint) ?? new Set();
  kept.set(endpoint, own.add(at));
};
const packed = new Map(
  (await query('select endpoint_id, until_ms::float8 as until from packed')).map((row) => [row.endpoint_id, row.until]),
);
const journal =
  await query(`select endpoint_id, at_ms::float8 as at, layout_id, payload, 'ring' as which from journal union all
  select endpoint_id, at_ms::float8, layout_id, payload, 'late' from journal_late`);
const seen = new Set();
for (const { endpoint_id, at, which } of journal) {
  const print = `${endpoint_id} ${at} ${which}`;
  if (seen.has(print)) doubled++;
  seen.add(print);
  keep(endpoint_id, at);
}
// of what is packed: whichever series of an endpoint has a sample then
for (const { endpoint_id, payload } of await query('select endpoint_id, payload from chunk')) {
  const { times } = decodeChunk(payload);
  for (let i = 0; i < times.length; i++) {
    if (i > 0 && times[i] <= times[i - 1]) doubled++;
    keep(endpoint_id, times[i]);
  }
}
let missing = 0;
let readings = 0;
for (const [endpoint, times] of said)
  for (const at of times) {
    readings++;
    if (!kept.get(endpoint)?.has(at)) {
      missing++;
      if (missing <= 5)
        say(
          `MISSING a reading of endpoint ${endpoint} at ${new Date(at).toISOString()}, packed until ${new Date(packed.get(endpoint) ?? 0).toISOString()}`,
        );
    }
  }
const [series] = await query(`select id, endpoint_id from series where metric = 'storm_waves'`);
const values = new Map();
const count = (own) => values.set(own, (values.get(own) ?? 0) + 1);
const layouts = new Map((await query('select id, series_ids from layout')).map((row) => [row.id, row.series_ids]));
const chunkTimes = new Set();
for (const { payload } of await query('select payload from chunk where series_id = $1', [series.id])) {
  const chunk = decodeChunk(payload);
  chunk.times.forEach((at, i) => {
    chunkTimes.add(at);
    count(chunk.values[i]);
  });
}
for (const { endpoint_id, at, layout_id, payload } of journal) {
  if (endpoint_id !== series.endpoint_id || chunkTimes.has(at)) continue;
  const place = layouts.get(layout_id)?.indexOf(series.id) ?? -1;
  if (place >= 0) count(decodeFrame(payload).values[place]);
}
const lost = [...pushed].filter((own) => !values.has(own));
const twice = [...values].filter(([own, times]) => times > 1 && !Number.isNaN(own));
const letters = await query('select stable_key as key, sent_at, dead_at from outbox');
const byKey = new Map();
for (const name of readdirSync(folder, { recursive: true }).map(String)) {
  if (!name.endsWith('.eml')) continue;
  const key = /^x-zetopsis-key: (\S+)/im.exec(readFileSync(join(folder, name), 'utf8'))?.[1];
  byKey.set(key, (byKey.get(key) ?? 0) + 1);
}
const neverCame = letters.filter(({ key, sent_at }) => sent_at !== null && !byKey.has(key));
const unsent = letters.filter(({ sent_at }) => sent_at === null);
const gaps = await query(
  `select reason, count(*)::int as n from endpoint_gap group by reason order by n desc limit 12`,
);
console.log(`
· seed ${SEED}: ${done.kills} kills of the server, ${done.stops} immediate stops of PostgreSQL, disk full ${done.full} ×, ${done.steps} steps of the clock
  readings said to be taken   ${readings}, missing ${missing}, doubled ${doubled}
  pushes acknowledged         ${pushed.size} of ${value}, missing ${lost.length}, stored twice ${twice.length}
  messages                    ${letters.length} in the outbox, ${unsent.length} not sent yet, ${neverCame.length} sent that never came; ${byKey.size} different ones came, ${[...byKey.values()].filter((times) => times > 1).length} of them more than once
  answers of 500              ${failedAnswers}
  readings given up           ${store.lost}
  gaps by their reason`);
for (const { reason, n } of gaps) console.log(`    ${n} × ${reason}`);
console.log('  said meanwhile');
for (const [text, times] of [...words].sort(([, a], [, b]) => b - a).slice(0, 25))
  console.log(`    ${times} × ${text.slice(0, 200)}`);
ended = true;
server.kill('SIGTERM');
await once(server, 'exit');
await world.close();
postgres.stop();
if (mounted) execFileSync('umount', [disk]);
rmSync(folder, { recursive: true, force: true });
const fine =
  missing === 0 &&
  doubled === 0 &&
  lost.length === 0 &&
  twice.length === 0 &&
  neverCame.length === 0 &&
  failedAnswers === 0 &&
  wrong === 0;
process.exit(fine ? 0 : 1);
