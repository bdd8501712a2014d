// What a person waits for at 1,000 nodes and 30,000 pods: the first page of the app, and what the drill screens ask for, over
// HTTP, against the same requests at a cluster of 30 nodes and 900 pods. A generated inventory is served as a cluster API
// serves it, the nodes' pages are read for some minutes. npm run bench -- wire [nodes] [minutes]
import { fork } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:https';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const SELF = fileURLToPath(import.meta.url);
const serving = process.argv[2] === 'serve';
const [NODES = 1000, MINUTES = 4] = process.argv.slice(serving ? 3 : 2).map(Number);
const PODS = 30; // a node
const INTERVAL = 15;
const CLUSTERS = { large: NODES, small: 30 };

/** The outside: two clusters with their nodes' pages. */
async function serve() {
  const { ClusterApi } = await import('../apps/standin/dist/api/clusterApi.js');
  const { ObjectStore } = await import('../apps/standin/dist/world/store.js');
  const { credentialsIn } = await import('../apps/standin/dist/tls/certificates.js');
  const { nodeShape, namespaceShape } = await import('../apps/standin/dist/world/shapes/nodes.js');
  const folder = mkdtempSync(join(tmpdir(), 'zetopsis-bench-'));
  const credentials = await credentialsIn(folder);
  rmSync(folder, { recursive: true });
  const began = Date.now() - 86_400_000;
  const cards = [];
  for (const [cluster, nodes] of Object.entries(CLUSTERS)) {
    const store = new ObjectStore(1);
    const created = new Date(began).toISOString();
    const meta = (kind, name, more = {}) => ({
      name,
      uid: `${cluster}-${kind}-${name}`,
      resourceVersion: '',
      creationTimestamp: created,
      ...more,
    });
    for (let n = 0; n < 25; n++)
      store.put('namespaces', namespaceShape(`team-${n}`, `team-${n}`, cluster, began), began);
    for (let n = 0; n < nodes; n++) {
      const name = `${cluster}-${n}`;
      const pods = Array.from({ length: PODS }, (_, p) => {
        const i = n * PODS + p;
        return { i, name: `svc-${i % 300}-${i}`, namespace: `team-${i % 25}`, owner: `svc-${i % 300}` };
      });
      const uidOf = (pod) => `${cluster}-pod-${pod.name}`;
      const page = () => {
        const seconds = (Date.now() - began) / 1000;
        const labels = (pod) =>
          `{k8s_container_name="main",k8s_namespace_name="${pod.namespace}",k8s_node_name="${name}",k8s_pod_name="${pod.name}",k8s_pod_uid="${uidOf(pod)}"}`;
        const own = `{k8s_node_name="${name}"}`;
        const family = (type, of, unit, suffix, value, at) => [
          `# TYPE ${of}_${unit} ${type}`,
          `# UNIT ${of}_${unit} ${unit}`,
          ...(at
            ? [`${of}_${unit}${suffix}${own} ${at}`]
            : pods.map((pod) => `${of}_${unit}${suffix}${labels(pod)} ${value(pod)}`)),
        ];
        return [
          ...family('counter', 'container_cpu_time', 'seconds', '_total', ({ i }) => (seconds * (1 + (i % 9))) / 20),
          ...family('counter', 'container_cpu_throttled_time', 'seconds', '_total', ({ i }) =>
            i % 50 ? 0 : seconds / 30,
          ),
          ...family(
            'gauge',
            'container_memory_working_set',
            'bytes',
            '',
            ({ i }) => 2e8 + ((i * 7919 + Math.floor(seconds)) % 5000) * 4096,
          ),
          ...family('counter', 'k8s_node_cpu_time', 'seconds', '_total', null, seconds * 12),
          ...family('gauge', 'k8s_node_memory_working_set', 'bytes', '', null, 3e10),
          '# EOF\n',
        ].join('\n');
      };
      const server = createServer({ key: credentials.key, cert: credentials.certificate }, (_, response) => {
        response.writeHead(200, { 'content-type': 'application/openmetrics-text; version=1.0.0' });
        response.end(page());
      }).listen(0, '127.0.0.1');
      server.keepAliveTimeout = 120_000;
      await once(server, 'listening');
      const plan = { name, zone: `shore-${n % 3}`, nodeClass: 'broad' };
      const shape = nodeShape(plan, cluster, began, server.address().port, Date.now());
      Object.assign(shape.status.allocatable, { cpu: '64', memory: '128Gi', pods: '110' });
      store.put('nodes', shape, began);
      for (const pod of pods)
        store.put(
          'pods',
          {
            metadata: meta('pod', pod.name, {
              namespace: pod.namespace,
              labels: { app: pod.owner },
              ownerReferences: [
                {
                  apiVersion: 'apps/v1',
                  kind: 'StatefulSet',
                  name: pod.owner,
                  uid: `${cluster}-set-${pod.owner}`,
                  controller: true,
                },
              ],
            }),
            spec: {
              nodeName: name,
              containers: [
                {
                  name: 'main',
                  image: 'harbour/svc:1',
                  resources: { requests: { cpu: '100m', memory: '256Mi' }, limits: { cpu: '1', memory: '512Mi' } },
                },
              ],
            },
            status: {
              phase: 'Running',
              conditions: [{ type: 'Ready', status: 'True' }],
              containerStatuses: [
                {
                  name: 'main',
                  ready: true,
                  restartCount: 0,
                  image: 'harbour/svc:1',
                  imageID: '',
                  state: { running: { startedAt: created } },
                },
              ],
            },
          },
          began,
        );
    }
    const api = new ClusterApi(store, credentials);
    api.server.listen(0, '127.0.0.1');
    await once(api.server, 'listening');
    cards.push({
      name: cluster,
      address: `https://127.0.0.1:${api.server.address().port}`,
      token: credentials.token,
      authority: credentials.authority,
    });
  }
  process.send(cards);
  process.on('disconnect', () => process.exit(0));
}

async function measure() {
  const { benchDatabase } = await import('./database.mjs');
  const { report } = await import('./measure.mjs');
  const { url, end } = await benchDatabase();
  const folder = mkdtempSync(join(tmpdir(), 'zetopsis-bench-'));
  const outside = fork(SELF, ['serve', ...process.argv.slice(2)]);
  const [cards] = await once(outside, 'message');
  const port = 25_790;
  const main = fileURLToPath(new URL('../apps/server/dist/main.js', import.meta.url));
  const server = fork(main, [], {
    silent: true,
    env: {
      ...process.env,
      NODE_ENV: 'production',
      ZETOPSIS_DATABASE_URL: url,
      ZETOPSIS_DATA_DIR: folder,
      ZETOPSIS_LOG_LEVEL: 'warn',
      ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
      ZETOPSIS_HOST: '127.0.0.1',
      ZETOPSIS_PORT: String(port),
    },
  });
  let printed = '';
  let done = false;
  server.once('exit', (status, signal) => {
    if (!done) console.log(`the server ended with ${status ?? signal}: ${printed.slice(-3000)}`);
  });
  for (const stream of [server.stdout, server.stderr]) stream.on('data', (text) => (printed += text));
  const pause = (ms) => new Promise((done) => setTimeout(done, ms));
  const codePrinted = () => /one-time code: (\S+)/.exec(printed)?.[1];
  while (codePrinted() === undefined) {
    if (server.exitCode !== null) throw new Error(printed);
    await pause(200);
  }
  const base = `http://127.0.0.1:${port}`;
  let cookie = '';
  const ask = async (path, method = 'GET', body = undefined) => {
    const send = () =>
      fetch(`${base}${path}`, {
        method,
        headers: { cookie, ...(body ? { 'content-type': 'application/json' } : {}) },
        body: body && JSON.stringify(body),
      });
    // an idle connection may have been closed just now
    const response = await send().catch(send);
    cookie = response.headers.get('set-cookie')?.split(';')[0] ?? cookie;
    const text = await response.text();
    if (!response.ok) throw new Error(`${path} answered ${response.status}: ${text.slice(0, 300)}`);
    return text;
  };
  const person = { code: codePrinted(), name: 'bench', password: 'a long enough pass phrase 1' };
  await ask('/api/first-person', 'POST', person);
  for (const card of cards)
    await ask('/api/connections', 'POST', {
      ...card,
      nodePage: { path: '/metrics', intervalSeconds: INTERVAL },
      environment: 'bench',
      region: '',
      flavour: '',
    });
  const began = Date.now();
  let first = null;
  while (Date.now() < began + MINUTES * 60_000) {
    await pause(2000);
    const { endpoints } = JSON.parse(await ask('/api/sources'));
    const read = endpoints.filter(({ state }) => state === 'read').length;
    if (first === null && read >= NODES + CLUSTERS.small) {
      first = (Date.now() - began) / 1000;
      console.log(`  every node read ${first.toFixed(0)} s after connecting`);
    }
  }
  const window = () => `from=${Date.now() - 3 * 3_600_000}`;
  const index = await ask('/');
  const assets = ['/', ...[...index.matchAll(/(?:src|href)="\.?(\/assets\/[^"]+)"/g)].map(([, path]) => path)];
  const requests = {
    'the app’s own files': async () => {
      let bytes = 0;
      for (const path of assets) bytes += (await ask(path)).length;
      return bytes;
    },
    Now: async (cluster) => (await ask(`/api/now?in=${cluster}&${window()}`)).length,
    'Usage, clusters and namespaces': async (cluster) => (await ask(`/api/usage?in=${cluster}&${window()}`)).length,
    'Usage, down to pods': async (cluster) =>
      (await ask(`/api/usage?in=${cluster}/team-1/stateful-set:svc-1&${window()}`)).length,
    'Usage, by nodes': async (cluster) => (await ask(`/api/usage?in=${cluster}&by=node&${window()}`)).length,
    'sheet of the cluster': async (cluster) => (await ask(`/api/usage/object?in=${cluster}&${window()}`)).length,
  };
  for (const [name, request] of Object.entries(requests)) {
    const times = { large: [], small: [] };
    let bytes = 0;
    let problem = null;
    for (let run = 0; run < 5; run++) {
      for (const cluster of ['small', 'large']) {
        await pause(3200); // answers are kept for three seconds
        const at = performance.now();
        try {
          const size = await request(cluster);
          if (cluster === 'large') bytes = size;
        } catch (error) {
          problem = error.message;
        }
        times[cluster].push(performance.now() - at);
      }
      // what takes so long needs no median
      if (times.large.at(-1) > 8000) break;
    }
    if (problem) console.log(`  ${name}: ${problem}`);
    const median = (list) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)];
    const [large, small] = [median(times.large), median(times.small)];
    report(
      name,
      `${CLUSTERS.small} nodes, ${small.toFixed(0)} ms`,
      `${(large / small).toFixed(1)} × time`,
      `${large.toFixed(0)} ms at ${NODES} nodes, ${NODES * PODS} pods; most ${times.large.at(-1).toFixed(0)} ms; ${(bytes / 1024).toFixed(0)} KiB; target for Usage: under 1000 ms`,
    );
  }
  const { readFileSync } = await import('node:fs');
  const status = readFileSync(`/proc/${server.pid}/status`, 'utf8');
  console.log(`  memory of the server: ${/VmHWM:\s+(\d+)/.exec(status)[1] / 2 ** 20} GiB at most`);
  done = true;
  server.kill('SIGTERM');
  await once(server, 'exit');
  outside.disconnect();
  await end();
  rmSync(folder, { recursive: true, force: true });
  process.exit(0);
}
if (serving) await serve();
else await measure();
