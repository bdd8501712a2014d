// How long one question may hold up everybody else: every heavy route at full size, 1,000 nodes and 30,000 pods, with 40,000
// pods that are gone, one after the other; and beside each a small question, asked all the time, against the same small
// question in a server that nobody else asks. npm run bench -- stops [nodes] [minutes] [gone]
import pg from 'pg';
import { report } from './measure.mjs';
import { PODS } from './outside.mjs';
import { pause, product } from './product.mjs';

const [NODES = 1000, MINUTES = 2, GONE = 40_000] = process.argv.slice(2).map(Number);
const DAY = 86_400_000;

const { ask, databaseUrl, longestStop, memory, end } = await product(
  { large: { nodes: NODES } },
  { port: 25_792, intervalSeconds: 15, readFor: MINUTES * 60_000, watched: true },
);
const database = new pg.Client(databaseUrl);
await database.connect();
const now = Date.now();
await database.query(
  `insert into object_version (connection_id, uid, from_ms, from_earliest_ms, to_ms, to_earliest_ms, kind, namespace, name, object)
   select connection_id, uid || '-past-' || n, at, at, at + 3600000, at + 3600000, kind, namespace, name || '-past-' || n,
          object || jsonb_build_object('uid', uid || '-past-' || n, 'name', name || '-past-' || n, 'createdAt', at)
     from (select *, row_number() over () - 1 as place from object_version where kind = 'pod' and to_ms is null) pods
     join (select n, n % $4::int as place, $1::bigint + (n * 100003::bigint) % $2::bigint as at
             from generate_series(0, $3::int - 1) n) begun using (place)`,
  [now - 60 * DAY, 59 * DAY, GONE, NODES * PODS],
);
await database.query('analyze object_version');
await database.end();

const window = (days) => `from=${Date.now() - days * DAY}`;
const inCluster = (path, days, more = '') => `/api/${path}?in=large&${window(days)}${more}`;
const pod = `large/team-1/stateful-set:svc-1`;
const ROUTES = {
  'Now, 3 h': () => inCluster('now', 1 / 8),
  'Now, 60 d': () => inCluster('now', 60),
  'Usage, 3 h': () => inCluster('usage', 1 / 8),
  'Usage, by nodes': () => inCluster('usage', 1 / 8, '&by=node'),
  'Usage, by teams': () => inCluster('usage', 1 / 8, '&by=team'),
  'Usage, pods of one': () => `/api/usage?in=${pod}&${window(1 / 8)}`,
  'Usage, network': () => inCluster('usage', 1 / 8, '&of=received'),
  'Usage against an hour earlier': () => inCluster('usage', 1 / 24, `&shift=${DAY / 24}`),
  'Usage, 60 d': () => inCluster('usage', 60),
  'table of namespaces': () => inCluster('usage/table', 1 / 8, '&level=namespace'),
  'table of pods': () => inCluster('usage/table', 1 / 8, '&level=pod'),
  'table of containers': () => inCluster('usage/table', 1 / 8, '&level=container'),
  'table of containers, searched': () => inCluster('usage/table', 1 / 8, '&level=container&find=svc-1'),
  'table of containers, 60 d': () => inCluster('usage/table', 60, '&level=container'),
  'sheet of the cluster': () => inCluster('usage/object', 1 / 8),
  'sheet of the cluster, 60 d': () => inCluster('usage/object', 60),
  'sheet of a workload': () => `/api/usage/object?in=${pod}&${window(1 / 8)}`,
  'tape, 3 h': () => inCluster('usage/tape', 1 / 8),
  'tape, 60 d': () => inCluster('usage/tape', 60),
  finder: () => '/api/find?q=svc-12345',
  'finder, mistyped': () => '/api/find?q=scv-21345',
  coverage: () => '/api/coverage',
  census: () => '/api/census',
  sources: () => '/api/sources',
  connections: () => '/api/connections',
  rules: () => '/api/rules',
  'audit log': () => '/api/admin/audit',
};
const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? 0;
/** Asks a small question again and again until it is told to stop; answers how long each took. */
function beside() {
  let on = true;
  const took = [];
  const asked = (async () => {
    while (on) {
      const at = performance.now();
      await ask('/api/session');
      took.push(performance.now() - at);
      await pause(5);
    }
  })();
  return async () => {
    on = false;
    await asked;
    return took;
  };
}

await pause(5000);
await longestStop();
const quiet = beside();
await pause(10_000);
const alone = await quiet();
const { own: idle } = await longestStop();
console.log(
  `  nobody asks: a small question ${median(alone).toFixed(1)} ms (most ${Math.max(...alone).toFixed(0)}), longest stop ${idle.toFixed(0)} ms, with ${NODES} nodes read every 15 s`,
);
let worst = { name: '', own: 0 };
for (const [name, path] of Object.entries(ROUTES)) {
  await pause(3500); // answers are kept for three seconds
  await longestStop();
  const small = beside();
  const at = performance.now();
  let outcome;
  try {
    outcome = `${((await ask(path())).length / 1024).toFixed(0)} KiB`;
  } catch (error) {
    outcome = error.message.replace(/^\S+ answered /, '').slice(0, 160);
  }
  const took = performance.now() - at;
  const waited = await small();
  const { stop, own, memory: now_ } = await longestStop();
  if (own > worst.own) worst = { name, own };
  report(
    name,
    `${median(alone).toFixed(1)} ms for a small question alone`,
    `${(Math.max(...waited) / median(alone)).toFixed(0)} × at most beside it`,
    `longest stop ${own.toFixed(0)} ms of its own (${stop.toFixed(0)} by the clock); answered in ${took.toFixed(0)} ms: ${outcome}; ${(now_ / 2 ** 30).toFixed(2)} GiB`,
  );
}
console.log(
  `  the longest stop was ${worst.own.toFixed(0)} ms of its own (${worst.name}); aim 50 ms; ${NODES * PODS} pods and ${GONE} that are gone; memory ${memory().toFixed(2)} GiB at most`,
);
await end();
process.exit(0);
