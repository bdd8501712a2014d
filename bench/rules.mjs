// What judging many rules costs: 2,000 rules of some 60 objects each, every minute, beside a cluster that is read. The processor
// time of a minute and the memory of the server, against the same server before the rules; how far judging lags behind.
// npm run bench -- rules [rules] [nodes] [minutes]
import { report } from './measure.mjs';
import { PODS } from './outside.mjs';
import { pause, product } from './product.mjs';

const [RULES = 2000, NODES = 1000, MINUTES = 3] = process.argv.slice(2).map(Number);
const NODES_OF_A_RULE = 2;
const { ask, processor, memory, end } = await product(
  { large: { nodes: NODES } },
  { port: 25_800, intervalSeconds: 15, readFor: 150_000 },
);
const perMinute = async (minutes) => {
  const [began, cpu] = [Date.now(), processor().all];
  await pause(minutes * 60_000);
  return ((processor().all - cpu) * 60_000) / (Date.now() - began);
};
const before = await perMinute(1);
const memoryBefore = memory();

const textOf = (i) => {
  const nodes = Array.from({ length: NODES_OF_A_RULE }, (_, n) => `"large-${(i * NODES_OF_A_RULE + n) % NODES}"`);
  return `read vital container.memory.working_set\n  where cluster is "large" and k8s_node_name is any of (${nodes.join(', ')})\n`;
};
const { text } = JSON.parse(await ask('/api/admin/configuration?as=json'));
const file = JSON.parse(text);
file.rules = { ...file.rules };
for (let i = 0; i < RULES; i++)
  file.rules[`bench-${i}`] = {
    name: `bench ${i}`,
    state: 'on trial',
    when: { is: 'measure', text: textOf(i), compare: 'above' },
    levels: { warning: { bound: 2.1e8 + i * 1000, holdsSeconds: 300 } },
    judgedSeconds: 60,
  };
const took = performance.now();
const read = JSON.parse(await ask('/api/admin/configuration', 'POST', { text: JSON.stringify(file), tryOnly: false }));
if (read.problems.length > 0) throw new Error(JSON.stringify(read.problems.slice(0, 3)));
console.log(`  ${RULES} rules read in ${((performance.now() - took) / 1000).toFixed(1)} s`);

const lags = [];
const watch = async () => {
  const { rules } = JSON.parse(await ask('/api/rules'));
  const own = rules.filter(({ key }) => key.startsWith('bench-'));
  const now = Date.now();
  for (const { judgedAt } of own) lags.push(judgedAt === null ? Number.POSITIVE_INFINITY : (now - judgedAt) / 1000);
  return own;
};
await pause(150_000); // each was judged once or twice, or is late
lags.length = 0;
let own = [];
const begun = { at: Date.now(), cpu: processor().all };
for (let i = 0; i < MINUTES * 4; i++) {
  own = await watch();
  await pause(15_000);
}
const after = ((processor().all - begun.cpu) * 60_000) / (Date.now() - begun.at);
lags.sort((a, b) => a - b);
const at = (share) => lags[Math.min(lags.length - 1, Math.floor(share * lags.length))];
const objects = own.reduce((sum, { matched }) => sum + (matched ?? 0), 0);
const costs = own.flatMap(({ tookMs }) => (tookMs === null ? [] : [tookMs])).sort((a, b) => a - b);
report(
  'judging every minute',
  `without rules, ${before.toFixed(1)} s of processor a minute`,
  `${(after / before).toFixed(2)} × time`,
  `${after.toFixed(1)} s a minute with ${RULES} rules on ${objects} objects at ${NODES} nodes, ${NODES * PODS} pods; judged up to ${at(0.5).toFixed(0)} s ago in the median, ${at(0.99).toFixed(0)} s at 99 % (settled after 30 s, judged every 60 s); one judging ${costs[Math.floor(costs.length / 2)]?.toFixed(0)} ms; problems: ${own.filter(({ problem }) => problem !== null).length}`,
);
console.log(`  memory of the server: ${memoryBefore.toFixed(2)} GiB before, ${memory().toFixed(2)} GiB at most`);
await end();
