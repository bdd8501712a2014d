// The usage of a whole cluster of 1,000 nodes and 30,000 pods over 3 h (what a drill screen asks for) against merely walking
// all its samples once. Inventory and samples are generated; the samples are in memory.
import { readObject } from '../packages/core/dist/inventory/index.js';
import { gridFor, usageTree } from '../packages/core/dist/usage/index.js';
import { medianOf, report } from './measure.mjs';

const [PODS, NODES] = [30_000, 1000];
const STEP = 15_000;
const COUNT = 720;
const end = 1_700_010_800_000;
const times = Float64Array.from({ length: COUNT }, (_, i) => end - (COUNT - 1 - i) * STEP);
const counter = { times, values: times.map((_, i) => i * 7.5) };
const gauge = { times, values: times.map((_, i) => 3e8 + i * 4096) };
const pods = Array.from({ length: PODS }, (_, i) => {
  const pod = readObject('pod', {
    metadata: { name: `p${i}`, namespace: `n${i % 25}`, uid: `u${i}`, creationTimestamp: '2023-01-01T00:00:00Z' },
    spec: {
      nodeName: `node-${i % NODES}`,
      containers: [
        { name: 'main', resources: { requests: { cpu: '100m', memory: '1Gi' }, limits: { cpu: '1', memory: '2Gi' } } },
      ],
    },
    status: { phase: 'Running' },
  });
  return {
    pod,
    workload: { kind: 'deployment', namespace: `n${i % 25}`, name: `w${i % 200}`, uid: `w${i}` },
    from: 0,
    to: null,
  };
});
const input = {
  cluster: { name: 'c', uid: 'c' },
  grid: gridFor(end - 3 * 3_600_000, end, STEP),
  interval: STEP,
  pods,
  nodes: Array.from({ length: NODES }, (_, i) => ({
    node: readObject('node', {
      metadata: { name: `node-${i}`, uid: `node-${i}`, creationTimestamp: '2023-01-01T00:00:00Z' },
      status: { allocatable: { cpu: '64', memory: '128Gi' } },
    }),
    from: 0,
    to: null,
  })),
  containerSamples: (vital) => (vital === 'container.memory.working_set' ? gauge : counter),
  nodeSamples: (vital) => (vital === 'node.memory.working_set' ? gauge : counter),
};
function walk() {
  let sum = 0;
  for (let i = 0; i < PODS * 3; i++) for (const value of counter.values) sum += value;
  return sum;
}
const [tree, bare] = medianOf(3, () => usageTree(input), walk);
report(
  `usage of ${PODS} pods over 3 h`,
  'walking all samples once',
  `${(tree / bare).toFixed(0)} × time`,
  `${tree.toFixed(0)} ms for ${((PODS * 3 * COUNT) / 1e6).toFixed(1)} M samples`,
);
