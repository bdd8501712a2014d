import { describe, expect, it } from 'vitest';
import { toTheEnd } from '../steps/index.ts';
import {
  type InventoryKind,
  type InventoryObject,
  isWorkload,
  type ObjectVersion,
  objectChanges,
  readObject,
  sameState,
  workloadKey,
  workloadOf,
} from './index.ts';
import { SERVICE_LABEL } from './wire-names.ts';

const changesOf = (versions: readonly ObjectVersion[]) => toTheEnd(objectChanges(versions));
const T = Date.parse('2026-11-25T02:00:00Z');
const iso = (at: number) => new Date(at).toISOString();
const meta = (name: string, more: object = {}) => ({
  metadata: { name, namespace: 'berths-batch', uid: `u-${name}`, creationTimestamp: iso(T), ...more },
});
function read<K extends InventoryKind>(kind: K, foreign: object): Extract<InventoryObject, { kind: K }> {
  return readObject(kind, foreign) as Extract<InventoryObject, { kind: K }>; // read by its kind
}
const template = {
  spec: {
    containers: [
      {
        name: 'replan',
        image: 'registry/replan:1',
        envFrom: [{ configMapRef: { name: 'settings' } }],
        env: [{ name: 'KEY', valueFrom: { secretKeyRef: { name: 'keys', key: 'a' } } }],
      },
    ],
    volumes: [
      { name: 'data', persistentVolumeClaim: { claimName: 'archive' } },
      { name: 'more', projected: { sources: [{ configMap: { name: 'charts' } }] } },
    ],
  },
};

describe('reading every kind', () => {
  it('a job tells its outcome, its tries and its times', () => {
    const failed = read('job', {
      ...meta('replan-1'),
      spec: { backoffLimit: 2, template },
      status: {
        startTime: iso(T),
        failed: 3,
        conditions: [
          {
            type: 'Failed',
            status: 'True',
            reason: 'BackoffLimitExceeded',
            message: 'too many',
            lastTransitionTime: iso(T + 9000),
          },
        ],
      },
    });
    expect(failed).toMatchObject({ outcome: 'failed', failed: 3, retriesAllowed: 2, startedAt: T, endedAt: T + 9000 });
    expect(failed.uses).toEqual({ configMaps: ['charts', 'settings'], secrets: ['keys'], claims: ['archive'] });
    expect(read('job', { ...meta('a'), spec: {}, status: {} }).outcome).toBe('waiting');
    expect(read('job', { ...meta('a'), spec: { suspend: true }, status: {} }).outcome).toBe('suspended');
    expect(read('job', { ...meta('a'), status: { startTime: iso(T) } }).outcome).toBe('running');
    expect(
      read('job', {
        ...meta('a'),
        status: { completionTime: iso(T), conditions: [{ type: 'Complete', status: 'True' }] },
      }),
    ).toMatchObject({ outcome: 'succeeded', endedAt: T });
  });

  it('a pod of a cron job’s job belongs to the cron job', () => {
    const cron = read('cron job', { ...meta('replan'), spec: { schedule: '0 2 * * *', timeZone: 'Europe/Oslo' } });
    const job = read('job', {
      ...meta('replan-1', { ownerReferences: [{ kind: 'CronJob', name: 'replan', uid: cron.uid, controller: true }] }),
    });
    const pod = read('pod', {
      ...meta('replan-1-abc', { ownerReferences: [{ kind: 'Job', name: 'replan-1', uid: job.uid, controller: true }] }),
    });
    const workload = workloadOf(pod, (uid) => (uid === job.uid ? job : undefined));
    expect(workloadKey(workload)).toBe('cron-job:replan');
    expect(workloadKey(workloadOf(pod, () => undefined))).toBe('job:replan-1');
    expect([isWorkload(cron), isWorkload(job), isWorkload({ ...job, owner: null })]).toEqual([true, false, true]);
    expect(cron).toMatchObject({ schedule: '0 2 * * *', zone: 'Europe/Oslo', suspended: false });
  });

  it('services, slices, volumes, claims, quotas, bounds, autoscalers, budgets', () => {
    expect(
      read('service', {
        ...meta('web'),
        spec: { clusterIP: 'None', selector: { app: 'web' }, ports: [{ port: 80, targetPort: 'http' }] },
      }),
    ).toMatchObject({ address: null, type: 'ClusterIP', ports: [{ port: 80, target: 'http', protocol: 'TCP' }] });
    const slice = read('endpoint slice', {
      ...meta('web-1', { labels: { [SERVICE_LABEL]: 'web' } }),
      ports: [{ name: 'http', port: 8080 }],
      endpoints: [
        {
          addresses: ['10.0.0.1'],
          conditions: { ready: false },
          targetRef: { kind: 'Pod', name: 'web-a' },
          nodeName: 'n1',
        },
        { addresses: ['10.0.0.2'], conditions: {} },
      ],
    });
    expect(slice.service).toBe('web');
    expect(slice.endpoints).toEqual([
      { address: '10.0.0.1', ready: false, pod: 'web-a', node: 'n1' },
      { address: '10.0.0.2', ready: true, pod: null, node: null },
    ]);
    expect(
      read('persistent volume', {
        ...meta('pv'),
        spec: { capacity: { storage: '20Gi' }, claimRef: { namespace: 'a', name: 'b' } },
        status: { phase: 'Bound' },
      }),
    ).toMatchObject({ capacity: 20 * 2 ** 30, claim: { namespace: 'a', name: 'b' }, phase: 'Bound' });
    expect(
      read('volume claim', {
        ...meta('c'),
        spec: { volumeName: 'pv', resources: { requests: { storage: '1Gi' } } },
        status: { capacity: { storage: '2Gi' } },
      }),
    ).toMatchObject({ requested: 2 ** 30, capacity: 2 ** 31, volume: 'pv' });
    expect(
      read('quota', {
        ...meta('q'),
        spec: { hard: { 'requests.cpu': '8', pods: '20', odd: 'many' } },
        status: { used: { 'requests.cpu': '7680m' } },
      }).rows,
    ).toEqual([
      { resource: 'pods', hard: 20, used: null },
      { resource: 'requests.cpu', hard: 8, used: 7.68 },
    ]);
    expect(
      read('limit range', {
        ...meta('l'),
        spec: { limits: [{ type: 'Container', max: { cpu: '2' }, default: { cpu: '1' } }] },
      }).rows,
    ).toEqual([{ of: 'container', resource: 'cpu', least: null, most: '2', request: null, limit: '1' }]);
    expect(
      read('autoscaler', {
        ...meta('s'),
        spec: {
          maxReplicas: 9,
          metrics: [
            { type: 'Resource', resource: { name: 'cpu', target: { type: 'Utilization', averageUtilization: 70 } } },
          ],
        },
        status: { currentReplicas: 4, desiredReplicas: 5 },
      }),
    ).toMatchObject({ least: 1, most: 9, current: 4, desired: 5, follows: ['cpu at 70 % of requests'] });
    expect(
      read('disruption budget', {
        ...meta('d'),
        spec: { minAvailable: '50%' },
        status: { currentHealthy: 3, desiredHealthy: 2, disruptionsAllowed: 1 },
      }),
    ).toMatchObject({ leastAvailable: '50%', mostUnavailable: null, healthy: 3, wanted: 2, allowed: 1 });
    expect(
      read('stateful set', {
        ...meta('st'),
        spec: { replicas: 3, template },
        status: { readyReplicas: 2, currentReplicas: 3 },
      }),
    ).toMatchObject({ desired: 3, ready: 2, uses: { claims: ['archive'] } });
  });

  it('keeps no value of a config map and nothing of a secret', () => {
    const config = read('config map', {
      ...meta('c'),
      data: { mode: 'calm', key: 'hunter2' },
      binaryData: { blob: 'AAAA' },
    });
    expect(Object.keys(config.keys)).toEqual(['mode', 'key', 'blob']);
    const secret = read('secret', { ...meta('s', { resourceVersion: '17' }), data: { key: 'aHVudGVyMg==' } });
    expect(secret.version).toBe('17');
    expect(JSON.stringify([config, secret])).not.toMatch(/calm|hunter2|aHVudGVyMg|AAAA/);
  });

  it('names who changed an object last, not who only reported its state', () => {
    const object = read('config map', {
      ...meta('c', {
        managedFields: [
          { manager: 'pipeline', operation: 'Update', time: iso(T + 5000) },
          { manager: 'watcher', operation: 'Update', subresource: 'status', time: iso(T + 9000) },
          { manager: 'maren', operation: 'Apply', time: iso(T + 1000) },
        ],
      }),
    });
    expect(object.changedBy).toEqual({ who: 'pipeline', at: T + 5000 });
    expect(sameState(object, { ...object, changedBy: null })).toBe(true);
  });

  it('survives nonsense in every field of every kind', () => {
    for (const kind of [
      'job',
      'cron job',
      'service',
      'endpoint slice',
      'quota',
      'limit range',
      'autoscaler',
      'config map',
    ] as const)
      for (const nonsense of [null, 7, 'x', [], [null], { a: null }])
        expect(
          readObject(kind, {
            ...meta('n'),
            spec: nonsense,
            status: nonsense,
            data: nonsense,
            ports: nonsense,
            endpoints: nonsense,
          }),
        ).toMatchObject({ kind, name: 'n' });
  });
});

describe('what changed', () => {
  const version = (object: InventoryObject, from: number): ObjectVersion => ({
    object,
    from,
    fromEarliest: from,
    to: null,
    toEarliest: null,
  });
  const config = (data: object, more: object = {}) => read('config map', { ...meta('settings', more), data });

  it('a config map: which keys, by whom', () => {
    const changes = changesOf([
      version(config({ mode: 'calm', old: '1' }), T),
      version(
        config({ mode: 'storm', fresh: '1' }, { managedFields: [{ manager: 'maren', time: iso(T + 5000) }] }),
        T + 5000,
      ),
      version(config({ mode: 'storm', fresh: '1' }, { labels: { a: 'b' } }), T + 9000),
    ]);
    expect(changes).toHaveLength(1);
    expect(changes[0]).toMatchObject({
      at: T + 5000,
      is: 'config change',
      who: 'maren',
      words: 'key mode changed, key old removed, key fresh added',
    });
  });
  it('what an object says of the time before it was read', () => {
    const told = changesOf([
      version(
        config({ a: '1' }, { managedFields: [{ manager: 'pipeline', time: iso(T + 3_600_000) }] }),
        T + 7_200_000,
      ),
    ]);
    expect(told).toEqual([
      expect.objectContaining({ at: T + 3_600_000, who: 'pipeline', words: expect.stringContaining('not known') }),
    ]);
    // one that was just made was not changed
    expect(
      changesOf([version(config({}, { managedFields: [{ manager: 'x', time: iso(T + 1000) }] }), T + 5000)]),
    ).toEqual([]);
  });
  it('a node: conditions and whether it takes pods', () => {
    const node = (ready: string, pressure: string, unschedulable = false) =>
      read('node', {
        ...meta('n1'),
        spec: { unschedulable },
        status: {
          conditions: [
            { type: 'Ready', status: ready },
            { type: 'MemoryPressure', status: pressure },
          ],
        },
      });
    const words = changesOf([
      version(node('True', 'False'), 1),
      version(node('True', 'True'), 2),
      version(node('Unknown', 'True', true), 3),
      version(node('True', 'False', true), 4),
    ]).map((change) => change.words);
    expect(words).toEqual([
      'is short of memory',
      'is not ready, takes no new pods',
      'is ready again, has enough memory again',
    ]);
  });
  it('scaling, new images of a stateful set, quotas, services, autoscalers, schedules', () => {
    const set = (replicas: number, image: string) =>
      read('stateful set', {
        ...meta('st'),
        spec: { replicas, template: { spec: { containers: [{ name: 'a', image: `r/a:${image}` }] } } },
      });
    const quota = (cpu: string) => read('quota', { ...meta('q'), spec: { hard: { 'requests.cpu': cpu } } });
    const cron = (schedule: string) => read('cron job', { ...meta('cj'), spec: { schedule } });
    const scaler = (most: number) => read('autoscaler', { ...meta('as'), spec: { maxReplicas: most } });
    const changes = changesOf([
      version(set(2, '1'), 1),
      version(set(3, '1'), 2),
      version(set(3, '2'), 3),
      version(quota('8'), 4),
      version(quota('10'), 5),
      version(cron('0 2 * * *'), 6),
      version(cron('0 3 * * *'), 7),
      version(scaler(5), 8),
      version(scaler(9), 9),
    ]);
    expect(changes.map(({ is, words }) => `${is}: ${words}`)).toEqual([
      'scaled: 2 → 3 pods',
      'rollout: 1 → 2',
      'config change: requests.cpu 8 → 10',
      'config change: schedule 0 2 * * * → 0 3 * * *',
      'config change: at most 5 → 9',
    ]);
  });
});
