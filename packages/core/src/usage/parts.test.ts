import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type NodeObject, type PodObject, readObject } from '../inventory/index.ts';
import { END_MARKER, type Samples } from '../samples/index.ts';
import { DAY, HOUR } from '../units/index.ts';
import {
  comparedOf,
  comparedPerPod,
  emptyNode,
  flowOnGrid,
  fullIn,
  gridFor,
  levelOnGrid,
  narrowTree,
  nodeUsage,
  OTHERS,
  perPodLine,
  placedOn,
  podKeyOnNode,
  podsByNode,
  type TreeInput,
  type UsageNode,
  usageTree,
  volumeUsage,
} from './index.ts';

const T0 = 1_700_000_000_000;
const STEP = 15_000;
const grid = { start: T0, step: STEP, count: 21 };
const every = (values: readonly number[], start = T0): Samples => ({
  times: values.map((_, i) => start + i * STEP),
  values,
});
const NOTHING: Samples = { times: [], values: [] };

interface Placed {
  readonly namespace: string;
  readonly workload: string;
  readonly name: string;
  readonly node: string;
  readonly memory: number;
}
/** A cluster of two nodes; each pod uses a constant amount of memory and asks for 1 GiB. */
function cluster(pods: readonly Placed[], more: Partial<TreeInput> = {}): TreeInput {
  const objects = pods.map(
    ({ namespace, name, node }) =>
      readObject('pod', {
        metadata: { namespace, name, uid: `uid-${namespace}-${name}` },
        spec: { nodeName: node, containers: [{ name: 'main', resources: { requests: { memory: '1Gi' } } }] },
        status: { phase: 'Running' },
      }) as PodObject, // a pod is read as one
  );
  const memory = new Map(pods.map((pod, i) => [objects[i]!.uid, pod.memory]));
  const node = (name: string) =>
    readObject('node', {
      metadata: { name, uid: `uid-${name}` },
      status: { allocatable: { cpu: '4', memory: '64Gi' } },
    }) as NodeObject;
  return {
    cluster: { name: 'c', uid: 'c' },
    grid,
    interval: STEP,
    pods: objects.map((pod, i) => ({
      pod,
      workload: { kind: 'deployment', namespace: pods[i]!.namespace, name: pods[i]!.workload, uid: pods[i]!.workload },
      from: T0 - 1e6,
      to: null,
    })),
    nodes: ['n1', 'n2'].map((name) => ({ node: node(name), from: 0, to: null })),
    containerSamples: (vital, uid) =>
      vital === 'container.memory.working_set' ? every(Array(21).fill(memory.get(uid) ?? 0)) : NOTHING,
    nodeSamples: () => NOTHING,
    ...more,
  };
}
const placed = fc.array(
  fc.record({
    namespace: fc.constantFrom('own', 'other', 'third'),
    workload: fc.constantFrom('a', 'b'),
    node: fc.constantFrom('n1', 'n2'),
    memory: fc.integer({ min: 1, max: 1e9 }),
  }),
  { minLength: 1, maxLength: 12 },
);
const named = (pods: readonly Omit<Placed, 'name'>[]): Placed[] => pods.map((pod, i) => ({ ...pod, name: `p${i}` }));
const use = (nodes: readonly UsageNode[]) => nodes.reduce((sum, node) => sum + (node.usage.memory.use ?? 0), 0);

describe('what somebody may see', () => {
  const sees = (namespace: string) => namespace === 'own';
  it('keeps the cluster’s totals: the own and the nameless share are all of it', () => {
    fc.assert(
      fc.property(placed, (pods) => {
        const input = cluster(named(pods));
        const whole = usageTree(input);
        const { tree, others } = narrowTree(grid, whole, sees);
        expect(tree.usage.memory).toEqual(whole.usage.memory);
        expect(tree.children.every(({ key }) => sees(key))).toBe(true);
        expect(use([...tree.children, ...(others ? [others] : [])])).toBe(use([whole]));
        expect(JSON.stringify(others)).not.toMatch(/other"|third/);
      }),
    );
  });
  it('on every node, too, under keys that tell the namespace', () => {
    fc.assert(
      fc.property(placed, (pods) => {
        const input = cluster(named(pods));
        const whole = usageTree(input);
        const shown = podsByNode({ grid, tree: whole, pods: input.pods, sees });
        const all = podsByNode({ grid, tree: whole, pods: input.pods, sees: () => true });
        for (const node of ['n1', 'n2']) {
          const own = shown.get(node) ?? [];
          expect(use(own)).toBe(use(all.get(node) ?? []));
          expect(own.filter(({ key }) => key === OTHERS).length).toBeLessThanOrEqual(1);
          expect(own.filter(({ key }) => key !== OTHERS).every(({ key }) => key.startsWith('own:'))).toBe(true);
        }
        expect([...all.values()].flat()).toHaveLength(pods.length);
      }),
    );
    expect(podKeyOnNode('tides', 'tide-model-x')).toBe('tides:tide-model-x');
  });
  it('a node’s requests are those of everything on it, whoever may see it', () => {
    const input = cluster(
      named([
        { namespace: 'own', workload: 'a', node: 'n1', memory: 5 },
        { namespace: 'other', workload: 'b', node: 'n1', memory: 7 },
        { namespace: 'own', workload: 'a', node: 'n2', memory: 9 },
      ]),
    );
    const on = placedOn(input.pods);
    const node = nodeUsage({ input, span: input.nodes[0]!, placed: on.get('n1') ?? [] });
    expect(node.usage.memory).toMatchObject({ request: 2 ** 31, limit: 64 * 2 ** 30, limitIs: 'allocatable' });
    expect(node.pods).toBe(2);
  });
});

describe('quotas', () => {
  it('stand before limits, for the resource they bound', () => {
    const pods = named([{ namespace: 'own', workload: 'a', node: 'n1', memory: 2 ** 30 }]);
    const tree = usageTree(cluster(pods, { quotaOf: (_, resource) => (resource === 'memory' ? 2 ** 32 : null) }));
    expect(tree.children[0]!.usage.memory).toMatchObject({ limit: 2 ** 32, limitIs: 'quota', tightness: 0.25 });
    expect(tree.children[0]!.usage.cpu).toMatchObject({ limit: null, limitIs: 'none' });
  });
});

describe('comparing', () => {
  it('takes the figures of the same object; of a pod those of the average pod', () => {
    const pods = named([
      { namespace: 'own', workload: 'a', node: 'n1', memory: 10 },
      { namespace: 'own', workload: 'a', node: 'n2', memory: 30 },
    ]);
    const workload = usageTree(cluster(pods)).children[0]!.children[0]!;
    expect(comparedOf(workload).memory).toEqual({ use: 40, mean: 40, peak: 40 });
    expect(comparedPerPod(workload).memory).toEqual({ use: 20, mean: 20, peak: 20 });
  });
  it('counts only pods that were there, so that a scaled workload’s average stays its pods’', () => {
    const pods = named([
      { namespace: 'own', workload: 'a', node: 'n1', memory: 10 },
      { namespace: 'own', workload: 'a', node: 'n1', memory: 10 },
    ]);
    const input = cluster(pods);
    const spans = input.pods.map((span, i) => (i === 1 ? { ...span, to: T0 + 5 * STEP } : span));
    const samples = (vital: string, uid: string): Samples =>
      vital !== 'container.memory.working_set'
        ? NOTHING
        : uid.endsWith('p1')
          ? { times: every(Array(6).fill(10)).times, values: [10, 10, 10, 10, 10, END_MARKER] }
          : every(Array(21).fill(10));
    const workload = usageTree({ ...input, pods: spans, containerSamples: samples }).children[0]!.children[0]!;
    expect(workload.lines.memory.use[2]).toBe(20);
    expect(workload.lines.memory.use[20]).toBe(10);
    expect([...new Set(perPodLine(workload, 'memory'))]).toEqual([10]);
  });
  it('what had no part in a window has no figures, not zero', () => {
    const empty = emptyNode({
      level: 'workload',
      identity: { name: 'a', key: 'deployment:a', uid: null },
      grid,
      present: false,
    });
    expect(comparedOf(empty).cpu).toEqual({ use: null, mean: null, peak: null });
    expect(empty.usage.memory).toMatchObject({ request: null, limit: null, limitIs: 'none' });
  });
});

describe('flows', () => {
  it('are sums of slopes; a gap in one part is a gap in the sum, an end is none', () => {
    const counter = (slope: number, count = 21) => every(Array.from({ length: count }, (_, i) => i * slope * 15));
    const both = flowOnGrid([counter(2), counter(3)], grid, STEP);
    expect([both[10], both[20]]).toEqual([5, 5]);
    const broken = flowOnGrid([counter(2), counter(3, 8)], grid, STEP);
    expect(broken[5]).toBe(5);
    expect(broken[20]).toBeNaN();
    // a spread would lose the mark's tag
    const values = Float64Array.from({ length: 9 }, (_, i) => i * 45);
    values[8] = END_MARKER;
    const ended: Samples = { times: every(Array(9).fill(0)).times, values };
    expect(flowOnGrid([counter(2), ended], grid, STEP)[20]).toBe(2);
    expect(flowOnGrid([], grid, STEP)[0]).toBeNaN();
  });
  it('levels add up the same way', () => {
    const late = every(Array(10).fill(4), T0 + 10 * STEP);
    const line = levelOnGrid([every(Array(21).fill(3)), late], grid, STEP);
    // what began later was missed by nobody before
    expect([line[0], line[9], line[15]]).toEqual([3, 3, 7]);
  });
});

describe('volumes', () => {
  const long = gridFor(T0, T0 + 6 * HOUR, STEP);
  const line = (from: number, perHour: number): Samples => {
    const times = Array.from({ length: 1441 }, (_, i) => T0 + i * STEP);
    return { times, values: times.map((at) => from + ((at - T0) / HOUR) * perHour) };
  };
  const none: Samples = { times: [], values: [] };
  const read = (used: Samples) => ({ used, size: line(202, 0), entriesUsed: none, entries: none });
  it('against their size, with the time until they are full', () => {
    const { usage, fullIn: left } = volumeUsage(read(line(100, 1)), long, STEP);
    expect(usage).toMatchObject({ use: 106, limit: 202, limitIs: 'size' });
    expect(left! / HOUR).toBeCloseTo(96, 0);
  });
  it('with the entries of their file system, where those are read', () => {
    const told = volumeUsage({ ...read(line(100, 1)), entriesUsed: line(40, 0), entries: line(50, 0) }, long, STEP);
    expect([told.entriesUsed.at(-1), told.entries.at(-1)]).toEqual([40, 50]);
    expect(volumeUsage(read(line(100, 1)), long, STEP).entries.every((value) => Number.isNaN(value))).toBe(true);
  });
  it('what shrinks, stands still or has too few readings has no such time', () => {
    for (const samples of [line(100, -1), line(100, 0), every([1, 2, 3])])
      expect(volumeUsage(read(samples), long, STEP).fullIn).toBeNull();
  });
  it('a straight climb is foretold exactly, and what is full is full now', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1000 }), fc.integer({ min: 1, max: 50 }), (left, slope) => {
        const values = Float64Array.from({ length: 60 }, (_, i) => i * slope);
        expect(fullIn(values, DAY, 59 * slope + left)! / DAY).toBeCloseTo(left / slope, 6);
        expect(fullIn(values, DAY, 3 * slope)).toBe(0);
      }),
    );
  });
});
