import { afterEach, describe, expect, it, vi } from 'vitest';
import { nodePage } from '../pages/nodePages.ts';
import { loadAt, loadBetween } from './load.ts';
import type { ApiObject } from './objects.ts';
import { LEAKING, NODES, WORKLOADS } from './scenario.ts';
import { ObjectStore } from './store.ts';
import { World } from './world.ts';

const START = 1_795_572_000_000;
const worlds: World[] = [];
function world(pace = 1, now = START): World {
  const made = new World(
    { seed: 's', start: START, pace, nodePorts: NODES.map((_, i) => 1000 + i), firstVersion: 10, heartbeat: 60_000 },
    now,
  );
  worlds.push(made);
  return made;
}
const podsOf = (made: World, app: string) =>
  made.store.list('pods').filter((pod) => pod.metadata.labels?.['app'] === app);
afterEach(() => {
  for (const made of worlds.splice(0)) made.close();
  vi.useRealTimers();
});

describe('the world', () => {
  it('is the same from the same seed and start', () => {
    const strip = (made: World) =>
      JSON.stringify(
        (['pods', 'deployments', 'replicasets', 'nodes', 'daemonsets'] as const).map((kind) => made.store.list(kind)),
      );
    expect(strip(world())).toBe(strip(world()));
  });
  it('holds what the scenario says', () => {
    const made = world();
    const deployments = WORKLOADS.filter(({ kind }) => kind === 'deployment');
    expect(made.store.list('nodes')).toHaveLength(14);
    expect(made.store.list('deployments')).toHaveLength(deployments.length);
    const daemons = (WORKLOADS.length - deployments.length) * 14;
    expect(made.store.list('pods')).toHaveLength(
      deployments.reduce((sum, { replicas }) => sum + replicas, 0) + daemons,
    );
    const uids = (['pods', 'deployments', 'replicasets', 'nodes', 'namespaces', 'events'] as const).flatMap((kind) =>
      made.store.list(kind).map(({ metadata }) => metadata.uid),
    );
    expect(new Set(uids).size).toBe(uids.length);
  });
  it('has a rollout that does not go on: three old pods serve, two new ones wait for their image', () => {
    const made = world();
    const deployment = made.store.get('deployments', 'manifests', 'declaration-checker')!;
    expect(deployment['status']).toMatchObject({
      replicas: 5,
      updatedReplicas: 2,
      readyReplicas: 3,
      unavailableReplicas: 2,
    });
    const waiting = podsOf(made, 'declaration-checker').filter((pod) => pod['status'].phase === 'Pending');
    expect(waiting.map((pod) => pod['status'].containerStatuses[0].state.waiting.reason)).toEqual([
      'ImagePullBackOff',
      'ImagePullBackOff',
    ]);
    expect(Date.parse(waiting[0]!.metadata.creationTimestamp)).toBe(START - 50 * 60_000);
  });
  it('scales up and down, mends the release, and refuses nonsense', () => {
    vi.useFakeTimers({ now: START });
    const made = world();
    expect(made.scale('tides', 'gauge-reader', 5, START)).toBeNull();
    expect(podsOf(made, 'gauge-reader')).toHaveLength(5);
    expect(made.store.get('deployments', 'tides', 'gauge-reader')!['status'].readyReplicas).toBe(3);
    vi.advanceTimersByTime(3000);
    expect(made.store.get('deployments', 'tides', 'gauge-reader')!['status'].readyReplicas).toBe(5);
    expect(made.scale('tides', 'gauge-reader', 1, Date.now())).toBeNull();
    expect(podsOf(made, 'gauge-reader')).toHaveLength(1);
    made.mendRelease(Date.now());
    vi.advanceTimersByTime(3000);
    expect(made.store.get('deployments', 'manifests', 'declaration-checker')!['status']).toMatchObject({
      readyReplicas: 5,
      updatedReplicas: 5,
    });
    expect(made.scale('tides', 'nothing', 1, START)).toMatch(/no deployment/);
    expect(made.scale('tides', 'gauge-reader', 1.5, START)).toMatch(/whole number/);
  });
});

describe('the leak', () => {
  it('climbs to its limit, is ended with 137, waits, and begins again', () => {
    vi.useFakeTimers({ now: START });
    const made = world(600); // a round lasts 54 s
    const [pod] = podsOf(made, 'tide-model');
    const memory = (at: number) => {
      const [container] = made.readings.containersOf(podsOf(made, 'tide-model')[0]!);
      return container ? made.readings.memoryBytes(container, at) / LEAKING.limit : null;
    };
    expect(memory(START)).toBeCloseTo(0.92, 2);
    expect(memory(START + 3000)).toBeGreaterThan(0.95);
    vi.advanceTimersByTime(5500);
    const ended = podsOf(made, 'tide-model')[0]!;
    expect(ended.metadata.uid).toBe(pod!.metadata.uid);
    expect(ended['status'].containerStatuses[0]).toMatchObject({
      ready: false,
      restartCount: 3,
      state: { terminated: { exitCode: 137, reason: 'OOMKilled' } },
    });
    expect(made.readings.containersOf(ended)).toEqual([]);
    expect(made.store.list('events').some(({ reason }: ApiObject) => reason === 'OutOfMemory')).toBe(true);
    vi.advanceTimersByTime(1000);
    expect(podsOf(made, 'tide-model')[0]!['status'].containerStatuses[0]).toMatchObject({
      ready: true,
      restartCount: 4,
      lastState: { terminated: { exitCode: 137 } },
    });
    expect(memory(Date.now())).toBeLessThan(0.3);
    expect(made.store.get('deployments', 'tides', 'tide-model')!['status'].readyReplicas).toBe(1);
  });
});

describe('readings', () => {
  it('a counter is the integral of its rate', () => {
    const whole = loadBetween('x', 1000, 2000);
    expect(loadBetween('x', 1000, 1400) + loadBetween('x', 1400, 2000)).toBeCloseTo(whole, 9);
    let sum = 0;
    for (let at = 1000; at < 2000; at += 0.5) sum += loadAt('x', at + 0.25) * 0.5;
    expect(sum / whole).toBeCloseTo(1, 4);
  });
  it('counters of nodes never fall, whatever their pods do', () => {
    vi.useFakeTimers({ now: START });
    const made = world(600);
    const before = new Map(NODES.map(({ name }) => [name, 0]));
    for (let i = 0; i < 40; i++) {
      vi.advanceTimersByTime(2000);
      if (i % 3 === 0) made.scale('ticketing', 'booking-front', 1 + ((i * 5) % 7), Date.now());
      for (const { name } of NODES) {
        const value = made.readings.nodeCpuSeconds(name, Date.now());
        expect(value).toBeGreaterThanOrEqual(before.get(name)!);
        before.set(name, value);
      }
    }
  });
  it('the page of a node shows each running container once, and its past bears times', () => {
    const made = world();
    const page = nodePage(made, 'seaward-03', START, null);
    const lines = page.split('\n').filter((line) => line !== '' && !line.startsWith('#'));
    const running = made.store
      .list('pods')
      .filter((pod) => pod['spec'].nodeName === 'seaward-03')
      .flatMap((pod) => made.readings.containersOf(pod));
    expect(lines).toHaveLength(running.length * 3 + 2);
    expect(page.endsWith('# EOF\n')).toBe(true);
    const past = nodePage(made, 'seaward-03', START, [START - 60_000, START]);
    expect(past.split('\n').filter((line) => line.endsWith(` ${(START / 1000).toFixed(3)}`))).toHaveLength(
      running.length * 3 + 2,
    );
  });
});

describe('the store', () => {
  const object = (name: string): ApiObject => ({
    metadata: { name, uid: `u-${name}`, resourceVersion: '', creationTimestamp: '' },
  });
  it('numbers every change, repeats what was missed, and says when it cannot', () => {
    const store = new ObjectStore(100);
    const heard: string[] = [];
    const stop = store.onChange(({ type, object: { metadata } }) => heard.push(`${type} ${metadata.name}`));
    store.put('namespaces', object('a'), 1);
    store.put('namespaces', object('a'), 2);
    store.remove('namespaces', object('a'), 3);
    stop();
    store.put('namespaces', object('b'), 4);
    expect(heard).toEqual(['ADDED a', 'MODIFIED a', 'DELETED a']);
    expect(store.since(101)!.map(({ type, version }) => [type, version])).toEqual([
      ['MODIFIED', 102],
      ['DELETED', 103],
      ['ADDED', 104],
    ]);
    expect(store.since(104)).toEqual([]);
    expect(store.since(99)).toBeNull();
    expect(store.since(999)).toBeNull();
    store.expire();
    expect(store.since(103)).toBeNull();
  });
  it('remembers every state: the ledger', () => {
    const store = new ObjectStore(1);
    const a = object('a');
    store.put('namespaces', a, 10);
    a.metadata.labels = { season: 'storm' };
    store.put('namespaces', a, 20);
    store.remove('namespaces', a, 30);
    expect(store.at(5).size).toBe(0);
    expect(store.at(15).get('u-a')!.object.metadata.labels).toBeUndefined();
    expect(store.at(25).get('u-a')!.object.metadata.labels).toEqual({ season: 'storm' });
    expect(store.at(30).size).toBe(0);
    expect(store.changesBetween(11, 30)).toHaveLength(2);
  });
});
