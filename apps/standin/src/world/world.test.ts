import { afterEach, describe, expect, it, vi } from 'vitest';
import { nodePage } from '../pages/nodePages.ts';
import { loadAt, loadBetween } from './load.ts';
import { type ApiObject, KINDS } from './objects.ts';
import { CLUSTERS, type ClusterPlan, LEAKING } from './scenario/index.ts';
import { ObjectStore } from './store.ts';
import { World } from './world.ts';

const START = 1_795_572_000_000;
const HOUR = 3_600_000;
const worlds: World[] = [];
const [SEAWARD, LANDWARD, SLIPWAY] = CLUSTERS as [ClusterPlan, ClusterPlan, ClusterPlan]; // the scenario has three
const NODES = SEAWARD.nodes;
function world(pace = 1, now = START, plan = SEAWARD): World {
  const made = new World(
    {
      plan,
      seed: 's',
      start: START,
      pace,
      nodePorts: plan.nodes.map((_, i) => 1000 + i),
      firstVersion: 10,
      heartbeat: 60_000,
    },
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
  it('holds what the scenario says, in three clusters, and no identity twice', () => {
    const made = [world(), world(1, START, LANDWARD), world(1, START, SLIPWAY)];
    expect(made.map(({ store }) => store.list('nodes').length)).toEqual([14, 9, 5]);
    for (const { store, options } of made) {
      const kinds = (kind: string) => options.plan.workloads.filter((plan) => plan.kind === kind);
      expect(store.list('deployments')).toHaveLength(kinds('deployment').length);
      expect(store.list('statefulsets')).toHaveLength(kinds('statefulset').length);
      expect(store.list('cronjobs')).toHaveLength(kinds('cronjob').length);
      expect(store.list('services')).toHaveLength(kinds('deployment').length + kinds('statefulset').length);
    }
    const uids = made.flatMap(({ store }) =>
      KINDS.flatMap((kind) => store.list(kind).map(({ metadata }) => metadata.uid)),
    );
    expect(new Set(uids).size).toBe(uids.length);
  });
  it('story 2: booking-front is at its limit and throttled since two hours before the start, and not before', () => {
    const made = world();
    const [pod] = podsOf(made, 'booking-front');
    const [container] = made.readings.containersOf(pod!);
    const rate = (at: number) =>
      (made.readings.cpuSeconds(container!, at) - made.readings.cpuSeconds(container!, at - 60_000)) / 60;
    const throttled = (at: number) =>
      (made.readings.throttledSeconds(container!, at) - made.readings.throttledSeconds(container!, at - 60_000)) / 60;
    expect(rate(START)).toBeGreaterThan(0.45);
    expect(rate(START)).toBeLessThan(0.51);
    expect(throttled(START)).toBeGreaterThan(0.2);
    expect(rate(START - 3 * HOUR)).toBeLessThan(0.4);
    expect(throttled(START - 3 * HOUR)).toBe(0);
  });
  it('story 4: the node is well again, and its conditions, events and evicted pods say what was', () => {
    const made = world();
    const node = made.store.get('nodes', undefined, 'seaward-07')!;
    const since = (type: string) =>
      Date.parse(
        node['status'].conditions.find((condition: { type: string }) => condition.type === type).lastTransitionTime,
      );
    expect(since('Ready')).toBe(START - 14 * HOUR + 6 * 60_000);
    expect(since('MemoryPressure')).toBeGreaterThan(since('Ready'));
    expect(made.store.list('pods').filter((pod) => pod['status'].reason === 'Evicted')).toHaveLength(3);
    expect(made.store.get('deployments', 'berths', 'quay-board')!['status'].readyReplicas).toBe(2);
  });
  it('story 5: the archive’s volume is full in about four days', () => {
    const made = world();
    const [pod] = podsOf(made, 'archive');
    const [now] = made.readings.volumesOf(pod!, START);
    const [later] = made.readings.volumesOf(pod!, START + 24 * HOUR);
    const days = (now!.size - now!.used) / (later!.used - now!.used);
    expect(days).toBeGreaterThan(3);
    expect(days).toBeLessThan(5);
  });
  it('story 6: the nightly run failed, both tries', () => {
    const made = world();
    const jobs = made.store.list('jobs').filter((job) => job.metadata.name.startsWith('replan-night'));
    const failed = jobs.filter(({ status }: ApiObject) => status.failed === 2);
    expect([jobs.length, failed.length]).toEqual([3, 1]);
    expect(START - Date.parse(failed[0]!.metadata.creationTimestamp)).toBeLessThan(24 * HOUR);
    const pods = podsOf(made, 'replan-night').filter((pod) => pod['status'].phase === 'Failed');
    expect(pods.map((pod) => pod['status'].containerStatuses[0].state.terminated.exitCode)).toEqual([3, 3]);
  });
  it('story 8: the quota is spent to 96 %, and one deployment has no pods', () => {
    const made = world(1, START, SLIPWAY);
    expect(made.store.get('resourcequotas', 'boarding', 'compute')!['status'].used['requests.cpu']).toBe('3840m');
    const scanner = made.store.get('deployments', 'boarding', 'ticket-scanner')!;
    expect(scanner['status']).toMatchObject({ replicas: 0, readyReplicas: 0 });
    expect(scanner['status'].conditions.at(-1)).toMatchObject({ type: 'ReplicaFailure', status: 'True' });
    expect(scanner['status'].conditions.at(-1).message).toContain('exceeded quota');
  });
  it('story 10: crew-rota asks for 12 cores and uses less than one', () => {
    const made = world();
    const pods = podsOf(made, 'rota-service');
    expect(pods.reduce((sum, pod) => sum + Number(pod['spec'].containers[0].resources.requests.cpu), 0)).toBe(12);
    const use = pods.reduce((sum, pod) => {
      const [container] = made.readings.containersOf(pod);
      return (
        sum + (made.readings.cpuSeconds(container!, START) - made.readings.cpuSeconds(container!, START - 60_000)) / 60
      );
    }, 0);
    expect(use).toBeLessThan(1.3);
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
    expect(made.rollouts.scale('tides', 'gauge-reader', 5, START)).toBeNull();
    expect(podsOf(made, 'gauge-reader')).toHaveLength(5);
    expect(made.store.get('deployments', 'tides', 'gauge-reader')!['status'].readyReplicas).toBe(3);
    vi.advanceTimersByTime(3000);
    expect(made.store.get('deployments', 'tides', 'gauge-reader')!['status'].readyReplicas).toBe(5);
    expect(made.rollouts.scale('tides', 'gauge-reader', 1, Date.now())).toBeNull();
    expect(podsOf(made, 'gauge-reader')).toHaveLength(1);
    made.rollouts.mendRelease('manifests', 'declaration-checker', Date.now());
    vi.advanceTimersByTime(3000);
    expect(made.store.get('deployments', 'manifests', 'declaration-checker')!['status']).toMatchObject({
      readyReplicas: 5,
      updatedReplicas: 5,
    });
    expect(made.rollouts.scale('tides', 'nothing', 1, START)).toMatch(/no deployment/);
    expect(made.rollouts.scale('tides', 'gauge-reader', 1.5, START)).toMatch(/whole number/);
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
    const whole = loadBetween({ identity: 'x', from: 1000, to: 2000 });
    expect(
      loadBetween({ identity: 'x', from: 1000, to: 1400 }) + loadBetween({ identity: 'x', from: 1400, to: 2000 }),
    ).toBeCloseTo(whole, 9);
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
      if (i % 3 === 0) made.rollouts.scale('ticketing', 'booking-front', 1 + ((i * 5) % 7), Date.now());
      for (const { name } of NODES) {
        const value = made.readings.nodeCpuSeconds(name, Date.now());
        expect(value).toBeGreaterThanOrEqual(before.get(name)!);
        before.set(name, value);
      }
    }
  });
  it('the page of a node shows each running container once, and its past bears times', () => {
    const made = world();
    const page = nodePage({ world: made, node: 'seaward-03', now: START, times: null });
    const lines = page.split('\n').filter((line) => line !== '' && !line.startsWith('#'));
    const running = made.store
      .list('pods')
      .filter((pod) => pod['spec'].nodeName === 'seaward-03')
      .flatMap((pod) => made.readings.containersOf(pod));
    const pods = made.store
      .list('pods')
      .filter((pod) => pod['spec'].nodeName === 'seaward-03' && pod['status'].phase === 'Running');
    const volumes = pods.flatMap((pod) => made.readings.volumesOf(pod, START));
    const processes = made.readings.nodeProcesses('seaward-03', START);
    const expected = running.length * 4 + pods.length * 2 + volumes.length * 4 + processes.length * 4 + 12;
    expect(lines).toHaveLength(expected);
    expect(page.endsWith('# EOF\n')).toBe(true);
    const past = nodePage({ world: made, node: 'seaward-03', now: START, times: [START - 60_000, START] });
    expect(past.split('\n').filter((line) => line.endsWith(` ${(START / 1000).toFixed(3)}`))).toHaveLength(expected);
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
    store.put({ kind: 'namespaces', object: object('a'), at: 1 });
    store.put({ kind: 'namespaces', object: object('a'), at: 2 });
    store.remove('namespaces', object('a'), 3);
    stop();
    store.put({ kind: 'namespaces', object: object('b'), at: 4 });
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
    store.put({ kind: 'namespaces', object: a, at: 10 });
    a.metadata.labels = { season: 'storm' };
    store.put({ kind: 'namespaces', object: a, at: 20 });
    store.remove('namespaces', a, 30);
    expect(store.at(5).size).toBe(0);
    expect(store.at(15).get('u-a')!.object.metadata.labels).toBeUndefined();
    expect(store.at(25).get('u-a')!.object.metadata.labels).toEqual({ season: 'storm' });
    expect(store.at(30).size).toBe(0);
    expect(store.changesBetween(11, 30)).toHaveLength(2);
  });
});

describe('what may be done to it', () => {
  it('load is driven up and down, and the counters stay integrals of it', () => {
    const made = world();
    const [pod] = podsOf(made, 'seat-ledger');
    const [container] = made.readings.containersOf(pod!);
    const spent = (at: number) => made.readings.cpuSeconds(container!, at);
    const usual = spent(START + 60_000) - spent(START);
    expect(
      made.surges.drive({ namespace: 'ticketing', name: 'seat-ledger', factor: 1.4, at: START + 60_000 }),
    ).toBeNull();
    const driven = spent(START + 120_000) - spent(START + 60_000);
    expect(driven / usual).toBeGreaterThan(1.25);
    made.surges.drive({ namespace: 'ticketing', name: 'seat-ledger', factor: 1, at: START + 120_000 });
    expect((spent(START + 180_000) - spent(START + 120_000)) / usual).toBeLessThan(1.15);
    expect(made.surges.drive({ namespace: 'ticketing', name: 'seat-ledger', factor: -1, at: START })).toMatch(/factor/);
  });
  it('a bad release changes the settings first, then stops at two pods', () => {
    vi.useFakeTimers({ now: START });
    const made = world();
    expect(made.rollouts.badRelease('ticketing', 'booking-front', START)).toBeNull();
    const settings = made.store.get('configmaps', 'ticketing', 'booking-front-settings')!;
    expect(settings['data']['log-level']).toBe('debug');
    expect(settings.metadata.managedFields?.[0]?.time).toBe(new Date(START).toISOString().replace('.000', ''));
    vi.advanceTimersByTime(125_000);
    const status = made.store.get('deployments', 'ticketing', 'booking-front')!['status'];
    expect(status).toMatchObject({ replicas: 6, readyReplicas: 4, updatedReplicas: 2 });
    expect(status.conditions.some(({ reason }: { reason: string }) => reason === 'ProgressDeadlineExceeded')).toBe(
      true,
    );
    expect(made.rollouts.mendRelease('ticketing', 'booking-front', Date.now())).toBeNull();
    vi.advanceTimersByTime(3000);
    expect(made.store.get('deployments', 'ticketing', 'booking-front')!['status']).toMatchObject({ readyReplicas: 6 });
  });
  it('a node is lost and found; its pods with it', () => {
    vi.useFakeTimers({ now: START });
    const made = world();
    const ready = () =>
      made.store
        .get('nodes', undefined, 'seaward-03')!
        ['status'].conditions.find(({ type }: { type: string }) => type === 'Ready').status;
    made.incidents.loseNode('seaward-03', START);
    expect(ready()).toBe('Unknown');
    expect(made.store.get('daemonsets', 'yard-cranes', 'crane-telemetry')!['status'].numberReady).toBe(13);
    expect(made.incidents.findNode('seaward-03', START + 1000)).toBeNull();
    expect(ready()).toBe('True');
    expect(made.store.get('daemonsets', 'yard-cranes', 'crane-telemetry')!['status'].numberReady).toBe(14);
    expect(made.incidents.loseNode('nowhere', START)).toMatch(/no node/);
  });
  it('a leak climbs to the limit, ends the container and begins again; a volume fills; containers restart', () => {
    vi.useFakeTimers({ now: START });
    const made = world();
    expect(made.incidents.leak({ namespace: 'boarding', name: 'gate-readers', minutes: 1, at: START })).toBeNull();
    const memory = () => {
      const [container] = made.readings.containersOf(podsOf(made, 'gate-readers')[0]!);
      return container ? made.readings.memoryBytes(container, Date.now()) : 0;
    };
    const before = memory();
    vi.advanceTimersByTime(50_000);
    expect(memory()).toBeGreaterThan(before * 1.4);
    vi.advanceTimersByTime(13_000);
    const status = podsOf(made, 'gate-readers')[0]!['status'].containerStatuses[0];
    expect(status).toMatchObject({
      restartCount: 1,
      lastState: { terminated: { exitCode: 137, reason: 'OOMKilled' } },
    });
    expect(made.incidents.stopLeak('boarding', 'gate-readers')).toBeNull();
    expect(
      made.incidents.fill({ namespace: 'pier-data', claim: 'data-queue-0', minutes: 1, at: Date.now() }),
    ).toBeNull();
    vi.advanceTimersByTime(60_000);
    const [volume] = made.readings.volumesOf(podsOf(made, 'queue')[0]!, Date.now());
    expect(volume!.used / volume!.size).toBeGreaterThan(0.98);
    expect(made.incidents.restarts('pilotage', 'vessel-tracker', 3)).toBeNull();
    vi.advanceTimersByTime(10_000);
    const counts = podsOf(made, 'vessel-tracker').map((pod) => pod['status'].containerStatuses[0].restartCount);
    expect(counts.reduce((sum: number, count: number) => sum + count, 0)).toBe(3);
  });
  it('cron jobs go on: a run comes, ends, and old ones are forgotten', () => {
    vi.useFakeTimers({ now: START });
    const made = world(600); // an hour takes 6 s
    vi.advanceTimersByTime(40_000);
    const jobs = made.store.list('jobs').filter((job) => job.metadata.name.startsWith('tidy-slots'));
    expect(jobs.length).toBeGreaterThan(2);
    expect(jobs.length).toBeLessThan(6);
    expect(jobs.every((job) => Date.parse(job.metadata.creationTimestamp) > START - 1000)).toBe(true);
    expect(made.store.get('cronjobs', 'berths-batch', 'tidy-slots')!['status'].lastSuccessfulTime).toBeDefined();
  });
});
