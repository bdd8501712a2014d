// A million active series, read over HTTP every 30 s, stored, packed and rolled up: lateness and memory.
// npm run bench -- million [minutes] [endpoints] [series of each] [seconds]; an hour takes an hour.
import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const SELF = fileURLToPath(import.meta.url);
const [minutes = 10, endpoints = 1000, series = 1000, seconds = 30] = (
  process.argv[2] === 'serve' ? process.argv.slice(3) : process.argv.slice(2)
).map(Number);

/** The outside: pages of gauges, two of each endpoint with other values, served in turn. */
function serve() {
  const page = (endpoint, turn) => {
    const lines = [];
    for (let metric = 0; metric < 10; metric++) {
      lines.push(`# TYPE load_${metric} gauge`);
      for (let i = 0; i < series / 10; i++)
        lines.push(
          `load_${metric}{k8s_container_name="app",k8s_namespace_name="team-${i % 50}",k8s_node_name="node-${endpoint}",k8s_pod_name="svc-${endpoint}-${i}"} ${(endpoint * 7 + i * 13 + metric + turn * 4096) / 4}`,
        );
    }
    return Buffer.from(`${lines.join('\n')}\n# EOF\n`);
  };
  const pages = Array.from({ length: endpoints }, (_, endpoint) => [page(endpoint, 0), page(endpoint, 1)]);
  const turns = new Uint8Array(endpoints);
  const server = createServer((request, response) => {
    const endpoint = Number(request.url.slice(1));
    turns[endpoint] ^= 1;
    response.writeHead(200, { 'content-type': 'application/openmetrics-text; version=1.0.0' });
    response.end(pages[endpoint][turns[endpoint]]);
  });
  server.listen(0, '127.0.0.1', () => process.send(server.address().port));
  process.on('disconnect', () => process.exit(0));
}

async function measure() {
  const { benchDatabase, sizeOf } = await import('./database.mjs');
  const { createApp } = await import('../apps/server/dist/bootstrap.js');
  const { readConfig } = await import('../apps/server/dist/ground/platform/config.js');
  const { AddressGuard } = await import('../apps/server/dist/ground/platform/addressGuard.js');
  const { Clock } = await import('../apps/server/dist/ground/platform/settings.js');
  const { EndpointReader } = await import('../apps/server/dist/inflow/scraping/endpointReader.js');
  const { fetchPage } = await import('../apps/server/dist/inflow/scraping/fetchPage.js');
  const { SamplesService } = await import('../apps/server/dist/keeping/store/samples.service.js');
  const { CompactionService } = await import('../apps/server/dist/keeping/store/compaction.service.js');
  const { DEFAULT_PAGE_LIMITS } = await import('../packages/core/dist/exposition/index.js');
  const { report } = await import('./measure.mjs');

  const { url, client, end } = await benchDatabase();
  const folder = mkdtempSync(join(tmpdir(), 'zetopsis-bench-'));
  const outside = fork(SELF, ['serve', ...process.argv.slice(2)]);
  const port = await new Promise((done) => outside.once('message', done));
  const app = await createApp(
    readConfig({
      ZETOPSIS_DATABASE_URL: url,
      ZETOPSIS_DATA_DIR: folder,
      ZETOPSIS_LOG_LEVEL: 'warn',
      ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
    }),
  );
  await app.init();
  const samples = app.get(SamplesService, { strict: false });
  const packing = app.get(CompactionService, { strict: false });
  const guard = new AddressGuard(['127.0.0.1'], url);
  const agent = guard.agent('');
  const clock = new Clock();
  await client.query(`insert into connection (name, token_encrypted) values ('bench', '')`);
  await client.query(
    `insert into endpoint (id, connection_id, node) select i, c.id, 'n' || i from connection c, generate_series(1, $1) i`,
    [endpoints],
  );
  const began = Date.now();
  const warmUntil = began + Math.min(4, minutes / 3) * 60_000;
  const lateness = [];
  const took = [];
  let readings = 0;
  let failures = 0;
  let highest = 0;
  let longest = 0;
  let before = performance.now();
  const pulse = setInterval(() => {
    const now = performance.now();
    if (Date.now() > warmUntil) longest = Math.max(longest, now - before - 20);
    before = now;
    highest = Math.max(highest, process.memoryUsage().rss);
  }, 20);
  const readers = Array.from({ length: endpoints }, (_, i) => {
    const plan = {
      id: i + 1,
      kind: 'node',
      connectionId: 'bench',
      name: `n${i}`,
      timeoutMs: null,
      dress: { attach: {}, drop: [] },
      url: new URL(`http://127.0.0.1:${port}/${i}`),
      intervalMs: seconds * 1000,
    };
    const reader = new EndpointReader(
      plan,
      clock,
      (own, timeout) => {
        if (Date.now() > warmUntil) lateness.push(Date.now() - reader.status.nextDueAt);
        return fetchPage({
          ask: { url: own.url, headers: {}, agent, proves: 'nothing', through: false },
          guard,
          timeoutMs: timeout,
          memory: reader.memory,
          limits: DEFAULT_PAGE_LIMITS,
        });
      },
      async (own, at, result) => {
        if (!result.ok) {
          failures++;
          return;
        }
        const { page } = result.fetched;
        result.fetched.raw = null; // the product keeps the newest page of each for looking at it; half a gigabyte here
        const taken = await samples.accept({
          endpointId: own.id,
          at,
          readAt: at,
          durationMs: 1,
          page,
          memory: reader.memory,
        });
        if (taken.kind !== 'accepted') failures++;
        else readings++;
        if (Date.now() > warmUntil) took.push(Date.now() - reader.status.nextDueAt);
      },
      null,
    );
    reader.start();
    return reader;
  });
  const until = began + minutes * 60_000;
  let packed = 0;
  while (Date.now() < until) {
    await new Promise((done) => setTimeout(done, 1000));
    const age = Date.now() - began;
    // what packing takes at this pace, all the time from then on
    if (age > Math.max(6, minutes / 2) * 60_000) {
      for (const endpoint of [...samples.unpacked.keys()].slice(0, Math.ceil(endpoints / 180))) {
        await packing.pack(endpoint, Date.now() - 60_000, 1_800_000);
        packed++;
      }
    }
    if (Math.floor(age / 60_000) !== Math.floor((age - 1000) / 60_000))
      console.log(
        `  minute ${Math.floor(age / 60_000)}: ${samples.status.series} series, ${readings} readings, ${failures} failed, ${(process.memoryUsage().rss / 2 ** 30).toFixed(2)} GiB, waiting ${samples.status.waiting}, packed ${packed}`,
      );
  }
  for (const reader of readers) reader.stop();
  clearInterval(pulse);
  const at = (list, share) => list.sort((a, b) => a - b)[Math.floor(list.length * share)] ?? Number.NaN;
  report(
    `${samples.status.series} series every ${seconds} s for ${minutes} min`,
    'its schedule',
    `${at(lateness, 0.99)} ms`,
    `target: p99 of lateness under 3 s, for an hour, under 4 GB; median ${at(lateness, 0.5)} ms, most ${at(lateness, 1 - 1e-9)} ms; durable after ${at(took, 0.5)} ms, p99 ${at(took, 0.99)} ms; ${failures} of ${readings + failures} readings failed; memory ${(highest / 1e9).toFixed(2)} GB at most; event loop held up ${longest.toFixed(0)} ms at most`,
  );
  const bytes = await sizeOf(client, 'journal', 'chunk', 'rollup_five', 'series', 'layout');
  console.log(`  on disk ${(bytes / 2 ** 30).toFixed(2)} GiB with the journal`);
  await agent.destroy();
  await app.close();
  outside.disconnect();
  await end();
  rmSync(folder, { recursive: true, force: true });
  process.exit(0);
}
// the same file is its own outside, as a process apart
if (process.argv[2] === 'serve') serve();
else await measure();
