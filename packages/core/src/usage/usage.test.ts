import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type PodObject, podAmounts, readObject } from '../inventory/index.ts';
import { END_MARKER, type Samples } from '../samples/index.ts';
import { percentile } from '../statistics/index.ts';
import { byTightness, gridFor, gridTime, latestOnGrid, perSecondOnGrid, type TreeInput, usageTree } from './index.ts';

const T0 = 1_700_000_000_000;
const STEP = 15_000;
const grid = { start: T0, step: STEP, count: 21 };
const every = (values: readonly number[], start = T0): Samples => ({
  times: values.map((_, i) => start + i * STEP),
  values,
});

describe('rates', () => {
  it('are the counter’s slope, whatever it counted before', () => {
    const rates = perSecondOnGrid({
      samples: every(Array.from({ length: 21 }, (_, i) => 1e6 + i * 30)),
      grid,
      over: 4 * STEP,
      staleness: 2.5 * STEP,
    });
    expect(rates[0]).toBeNaN();
    expect(Array.from(rates.slice(1))).toEqual(Array(20).fill(2));
  });
  it('lose nothing at resets and never are negative', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ grow: fc.nat(100), reset: fc.boolean() }), { minLength: 3, maxLength: 21 }),
        (steps) => {
          let value = 500;
          let total = 0;
          const totals: number[] = [];
          const values = steps.map(({ grow, reset }, i) => {
            // a restarted counter begins at 0; what it reaches by the next reading is all growth that can be seen
            const grown = reset ? Math.min(grow, Math.max(0, value - 1)) : grow;
            value = reset ? grown : value + grow;
            if (i > 0) total += grown;
            totals.push(total);
            return value;
          });
          const whole = perSecondOnGrid({
            samples: every(values),
            grid: { start: T0 + (steps.length - 1) * STEP, step: 1, count: 1 },
            over: 1e9,
            staleness: 1e9,
          })[0]!;
          expect(whole * (((steps.length - 1) * STEP) / 1000)).toBeCloseTo(total, 6);
          expect(whole).toBeGreaterThanOrEqual(0);
        },
      ),
    );
  });
  it('stop where the series ended or was not read', () => {
    const gone = every([10, 20, 30, END_MARKER]);
    const rates = perSecondOnGrid({ samples: gone, grid, over: 4 * STEP, staleness: 2.5 * STEP });
    expect(rates[2]).toBeCloseTo(10 / 15);
    expect(rates[3]).toBeNaN();
    expect(latestOnGrid(every([7]), grid, 2.5 * STEP)[2]).toBe(7);
    expect(latestOnGrid(every([7]), grid, 2.5 * STEP)[3]).toBeNaN();
  });
});

describe('the grid', () => {
  it('is the same for windows of one length, whatever the moment and however long the question was under way', () => {
    for (const hours of [1, 3, 6, 12, 24])
      for (const interval of [10_000, 15_000, 60_000]) {
        const made = [0, 3, 900, 2500].map((late) => gridFor(T0, T0 + hours * 3_600_000 + late, interval).step);
        expect([hours, interval, new Set(made).size]).toEqual([hours, interval, 1]);
      }
  });
  it('ends at the window’s end, has about 240 points at most and is not finer than the readings', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 60_000, max: 92 * 86_400_000 }),
        fc.constantFrom(1000, 15_000, 3_600_000),
        (length, interval) => {
          const made = gridFor(T0, T0 + length, interval);
          expect(gridTime(made, made.count - 1)).toBe(T0 + length);
          expect(made.count).toBeLessThanOrEqual(243);
          expect(made.step % interval).toBe(0);
          expect(made.start).toBeGreaterThanOrEqual(T0);
        },
      ),
    );
  });
  it('percentiles are linear between ranks and ignore what was not read', () => {
    expect(percentile([1, 2, 3, 4, Number.NaN], 0.5)).toBe(2.5);
    expect(percentile([Number.NaN], 0.5)).toBeNull();
  });
});

interface Plan {
  readonly name: string;
  readonly role: 'main' | 'helper' | 'start-up';
  readonly cpu?: readonly [request: string | null, limit: string | null];
  readonly memory?: readonly [request: string | null, limit: string | null];
}
function pod(
  name: string,
  plans: readonly Plan[],
  more: { node?: string; phase?: string; overhead?: object } = {},
): PodObject {
  const spec = ({ name: container, cpu = [null, null], memory = [null, null], role }: Plan) => ({
    name: container,
    image: 'r/x:1',
    ...(role === 'helper' ? { restartPolicy: 'Always' } : {}),
    resources: {
      requests: { ...(cpu[0] === null ? {} : { cpu: cpu[0] }), ...(memory[0] === null ? {} : { memory: memory[0] }) },
      limits: { ...(cpu[1] === null ? {} : { cpu: cpu[1] }), ...(memory[1] === null ? {} : { memory: memory[1] }) },
    },
  });
  return readObject('pod', {
    metadata: {
      name,
      namespace: 'ns',
      uid: `uid-${name}`,
      creationTimestamp: new Date(T0).toISOString(),
      ownerReferences: [{ kind: 'DaemonSet', name: 'w', uid: 'uid-w', controller: true }],
    },
    spec: {
      nodeName: more.node ?? 'n1',
      containers: plans.filter(({ role }) => role === 'main').map(spec),
      initContainers: plans.filter(({ role }) => role !== 'main').map(spec),
      overhead: more.overhead ?? {},
    },
    status: { phase: more.phase ?? 'Running' },
  }) as PodObject;
}

describe('request and limit of a pod', () => {
  it('request = max(largest start-up, sum of the lasting) + overhead', () => {
    const plans: Plan[] = [
      { name: 'a', role: 'main', cpu: ['200m', '500m'] },
      { name: 'b', role: 'main', cpu: ['100m', '500m'] },
      { name: 'big', role: 'start-up', cpu: ['900m', null] },
    ];
    expect(podAmounts(pod('p', plans, { overhead: { cpu: '50m' } }), 'cpu')).toEqual({
      request: 0.9500000000000001,
      limit: 1.05,
      unlimited: null,
    });
    expect(podAmounts(pod('p', plans.slice(0, 2)), 'cpu').request).toBeCloseTo(0.3);
  });
  it('a helper started before a start-up container counts beside it', () => {
    const plans: Plan[] = [
      { name: 'a', role: 'main', cpu: ['100m', '1'] },
      { name: 'door', role: 'helper', cpu: ['300m', '1'] },
      { name: 'lay', role: 'start-up', cpu: ['500m', null] },
    ];
    expect(podAmounts(pod('p', plans), 'cpu').request).toBeCloseTo(0.8);
  });
  it('one unlimited lasting container leaves the pod without a limit, and is named', () => {
    const amounts = podAmounts(
      pod('p', [
        { name: 'a', role: 'main', cpu: ['100m', '1'] },
        { name: 'free', role: 'main' },
      ]),
      'cpu',
    );
    expect(amounts).toMatchObject({ limit: null, unlimited: 'free' });
  });
  it('what has a limit but no request asks for its limit', () => {
    expect(podAmounts(pod('p', [{ name: 'a', role: 'main', memory: [null, '1Gi'] }]), 'memory').request).toBe(2 ** 30);
  });
});

describe('the tree', () => {
  const plan: Plan = { name: 'main', role: 'main', cpu: ['100m', '1'], memory: ['1Gi', '2Gi'] };
  const node = readObject('node', {
    metadata: { name: 'n1', uid: 'un' },
    status: { allocatable: { cpu: '4', memory: '8Gi' } },
  });
  const tree = (
    pods: PodObject[],
    samples: (vital: string, uid: string) => Samples,
    ends: Record<string, number> = {},
  ) => {
    if (node?.kind !== 'node') throw new Error('no node');
    const input: TreeInput = {
      cluster: { name: 'c', uid: 'c' },
      grid,
      interval: STEP,
      pods: pods.map((one) => ({
        pod: one,
        workload: { kind: 'daemon set', namespace: 'ns', name: 'w', uid: 'uid-w' },
        from: T0 - 1e7,
        to: ends[one.name] ?? null,
      })),
      nodes: [{ node, from: 0, to: null }],
      containerSamples: samples,
      nodeSamples: () => ({ times: [], values: [] }),
    };
    return usageTree(input);
  };
  const memoryOf = (bytes: number, count = 21) => every(Array(count).fill(bytes));

  it('sums use, requests and limits of the pods that are there', () => {
    const root = tree([pod('a', [plan]), pod('b', [plan])], (vital) =>
      vital === 'container.memory.working_set' ? memoryOf(2 ** 29) : every(Array.from({ length: 21 }, (_, i) => i * 3)),
    );
    const workload = root.children[0]!.children[0]!;
    expect(workload.usage.memory).toMatchObject({
      use: 2 ** 30,
      request: 2 ** 31,
      limit: 2 ** 32,
      tightness: 0.25,
      limitIs: 'limit',
    });
    expect(workload.usage.cpu.use).toBeCloseTo(0.4);
    expect(root.usage.cpu).toMatchObject({ limit: 4, limitIs: 'allocatable' });
    expect(root.usage.memory.tightness).toBeCloseTo(2 ** 30 / 2 ** 33);
    expect(root.pods).toBe(2);
  });
  it('does not show less use where a reading of a part is missing', () => {
    const root = tree([pod('a', [plan]), pod('b', [plan])], (_vital, uid) => memoryOf(100, uid === 'uid-a' ? 21 : 10));
    const { memory } = root.children[0]!.children[0]!.lines;
    expect(memory.use[5]).toBe(200);
    expect(memory.use[15]).toBeNaN();
    expect(memory.read[15]).toBe(100);
    expect(root.lines.memory.read[15]).toBe(100);
    expect(root.usage.memory.use).toBe(100);
    expect(root.children[0]!.children[0]!.usage.memory).toMatchObject({ use: 100, peak: 200 });
  });
  it('an ended series is known to use nothing, and is no gap', () => {
    const ended: Samples = { times: every([1, 1, 1]).times, values: [100, 100, END_MARKER] };
    const root = tree([pod('a', [plan]), pod('b', [plan])], (_vital, uid) => (uid === 'uid-a' ? memoryOf(100) : ended));
    expect(root.children[0]!.lines.memory.use[20]).toBe(100);
  });
  it('gone pods count for the time they were there, ended ones never ask', () => {
    const root = tree(
      [pod('a', [plan]), pod('gone', [plan]), pod('done', [plan], { phase: 'Succeeded' })],
      () => memoryOf(100),
      { gone: T0 + 5 * STEP },
    );
    const workload = root.children[0]!.children[0]!;
    expect(workload.lines.memory.request[0]).toBe(2 ** 31);
    expect(workload.lines.memory.request[10]).toBe(2 ** 30);
    expect(workload.pods).toBe(1);
    expect(workload.children.map(({ name, present }) => [name, present])).toEqual([
      ['a', true],
      ['gone', false],
      ['done', false],
    ]);
  });
  it('without any limit there is no tightness, and it sorts after those that have one', () => {
    const root = tree([pod('tight', [plan]), pod('free', [{ name: 'main', role: 'main' }])], () => memoryOf(100));
    const [tight, free] = root.children[0]!.children[0]!.children;
    expect(free!.usage.memory).toMatchObject({ limit: null, limitIs: 'none', tightness: null, unlimited: 'main' });
    expect([free!, tight!].sort(byTightness('memory')).map(({ name }) => name)).toEqual(['tight', 'free']);
    expect(root.children[0]!.usage.memory).toMatchObject({ limit: null, unlimited: 'main' });
  });
});
