// What a person waits for at 1,000 nodes and 30,000 pods: the first page of the app, and what the drill screens ask for, over
// HTTP, against the same requests at a cluster of 30 nodes and 900 pods. A generated inventory is served as a cluster API
// serves it, the nodes' pages are read for some minutes. npm run bench -- wire [nodes] [minutes]
import { report } from './measure.mjs';
import { PODS } from './outside.mjs';
import { pause, product } from './product.mjs';

const [NODES = 1000, MINUTES = 4] = process.argv.slice(2).map(Number);
const CLUSTERS = { large: { nodes: NODES }, small: { nodes: 30 } };

const { ask, memory, processor, end } = await product(CLUSTERS, {
  port: 25_790,
  intervalSeconds: 15,
  readFor: MINUTES * 60_000,
});
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
  'Usage, network received': async (cluster) =>
    (await ask(`/api/usage?in=${cluster}/team-1&of=received&${window()}`)).length,
  'Usage, by nodes': async (cluster) => (await ask(`/api/usage?in=${cluster}&by=node&${window()}`)).length,
  'sheet of the cluster': async (cluster) => (await ask(`/api/usage/object?in=${cluster}&${window()}`)).length,
};
const before = { at: performance.now(), ...processor() };
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
    `${CLUSTERS.small.nodes} nodes, ${small.toFixed(0)} ms`,
    `${(large / small).toFixed(1)} × time`,
    `${large.toFixed(0)} ms at ${NODES} nodes, ${NODES * PODS} pods; most ${times.large.at(-1).toFixed(0)} ms; ${(bytes / 1024).toFixed(0)} KiB; target for Usage: under 1000 ms`,
  );
}
// 70 questions, the same each time, with the readings beside them: it says more than the clock where a machine is shared
const now = processor();
console.log(
  `  processor of the server meanwhile: ${(now.all - before.all).toFixed(1)} s, its main thread ${(now.main - before.main).toFixed(1)} s, of ${((performance.now() - before.at) / 1000).toFixed(0)} s`,
);
console.log(`  memory of the server: ${memory().toFixed(2)} GiB at most`);
await end();
process.exit(0);
