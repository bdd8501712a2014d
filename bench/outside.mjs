// A generated world outside the product, in a process of its own: a cluster API for each cluster, and the pages of its nodes.
// Forked with the clusters as JSON; sends a card for each once they are served, and ends with who forked it.
import { fork } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:https';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const SELF = fileURLToPath(import.meta.url);
export const PODS = 30; // a node

/** Serves these clusters; `end` ends them. */
export async function outside(clusters) {
  const served = fork(SELF, [JSON.stringify(clusters)]);
  const [cards] = await once(served, 'message');
  return { cards, end: () => served.disconnect() };
}

/** Clusters with their nodes' pages: so many nodes each, `sets` workloads in `spaces` namespaces. */
async function serve(clusters) {
  const { ClusterApi } = await import('../apps/standin/dist/api/clusterApi.js');
  const { ObjectStore } = await import('../apps/standin/dist/world/store.js');
  const { credentialsIn } = await import('../apps/standin/dist/tls/certificates.js');
  const { nodeShape, namespaceShape } = await import('../apps/standin/dist/world/shapes/nodes.js');
  const folder = mkdtempSync(join(tmpdir(), 'zetopsis-bench-'));
  const credentials = await credentialsIn(folder);
  rmSync(folder, { recursive: true });
  const began = Date.now() - 86_400_000;
  const cards = [];
  for (const [cluster, { nodes, sets = 300, spaces = 25 }] of Object.entries(clusters)) {
    const store = new ObjectStore(1);
    const created = new Date(began).toISOString();
    const meta = (kind, name, more = {}) => ({
      name,
      uid: `${cluster}-${kind}-${name}`,
      resourceVersion: '',
      creationTimestamp: created,
      ...more,
    });
    for (let n = 0; n < spaces; n++)
      store.put({
        kind: 'namespaces',
        object: namespaceShape({ name: `team-${n}`, team: `team-${n}`, seed: cluster, createdAt: began }),
        at: began,
      });
    for (let n = 0; n < nodes; n++) {
      const name = `${cluster}-${n}`;
      const pods = Array.from({ length: PODS }, (_, p) => {
        const i = n * PODS + p;
        return { i, name: `svc-${i % sets}-${i}`, namespace: `team-${i % spaces}`, owner: `svc-${i % sets}` };
      });
      const uidOf = (pod) => `${cluster}-pod-${pod.name}`;
      const page = () => {
        const seconds = (Date.now() - began) / 1000;
        const way = (direction) => (direction ? `,network_io_direction="${direction}"` : '');
        const labels = (pod, direction) =>
          `{${direction ? '' : 'k8s_container_name="main",'}k8s_namespace_name="${pod.namespace}",k8s_node_name="${name}",k8s_pod_name="${pod.name}",k8s_pod_uid="${uidOf(pod)}"${way(direction)}}`;
        const family = (type, of, unit, suffix, value, at, direction) => [
          `# TYPE ${of}_${unit} ${type}`,
          `# UNIT ${of}_${unit} ${unit}`,
          ...(at
            ? [`${of}_${unit}${suffix}{k8s_node_name="${name}"${way(direction)}} ${at}`]
            : pods.map((pod) => `${of}_${unit}${suffix}${labels(pod, direction)} ${value(pod)}`)),
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
          ...family(
            'counter',
            'k8s_pod_network_io',
            'bytes',
            '_total',
            ({ i }) => Math.floor(seconds * 900 * (1 + (i % 13))),
            null,
            'receive',
          ),
          ...family(
            'counter',
            'k8s_pod_network_io',
            'bytes',
            '_total',
            ({ i }) => Math.floor(seconds * 700 * (1 + (i % 11))),
            null,
            'transmit',
          ).slice(2),
          ...family('counter', 'k8s_node_network_io', 'bytes', '_total', null, Math.floor(seconds * 5e5), 'receive'),
          ...family(
            'counter',
            'k8s_node_network_io',
            'bytes',
            '_total',
            null,
            Math.floor(seconds * 4e5),
            'transmit',
          ).slice(2),
          ...family('gauge', 'k8s_node_filesystem_usage', 'bytes', '', null, 7e10),
          ...family('gauge', 'k8s_node_filesystem_capacity', 'bytes', '', null, 2e11),
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
      const shape = nodeShape({ plan, seed: cluster, createdAt: began, port: server.address().port, now: Date.now() });
      Object.assign(shape.status.allocatable, { cpu: '64', memory: '128Gi', pods: '110' });
      store.put({ kind: 'nodes', object: shape, at: began });
      for (const pod of pods)
        store.put({
          kind: 'pods',
          object: {
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
          at: began,
        });
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

if (process.argv[1] === SELF) await serve(JSON.parse(process.argv[2]));
