import { describe, expect, it } from 'vitest';
import {
  type InventoryObject,
  type PodObject,
  readObject,
  restartsOf,
  rolloutsOf,
  sameState,
  stateAt,
  type WorkloadObject,
  workloadKey,
  workloadOf,
} from './index.ts';

const meta = (name: string, more: object = {}) => ({
  name,
  namespace: 'tides',
  uid: `uid-${name}`,
  creationTimestamp: '2026-11-01T00:00:00Z',
  ...more,
});
const owned = (kind: string, name: string) => ({
  ownerReferences: [{ kind, name, uid: `uid-${name}`, controller: true }],
});
const container = (name: string, more: object = {}) => ({
  name,
  image: `registry.test/${name}:1`,
  resources: { requests: { cpu: '100m', memory: '1Gi' }, limits: { memory: '2Gi' } },
  ...more,
});

describe('reading objects', () => {
  it('tells main, helper and start-up containers apart', () => {
    const pod = readObject('pod', {
      metadata: meta('p'),
      spec: {
        nodeName: 'n1',
        containers: [container('model')],
        initContainers: [container('lay'), container('door', { restartPolicy: 'Always' })],
        overhead: { cpu: '10m' },
      },
      status: {
        phase: 'Running',
        containerStatuses: [
          {
            name: 'model',
            ready: true,
            restartCount: 3,
            state: { running: { startedAt: '2026-11-01T00:01:00Z' } },
            lastState: { terminated: { exitCode: 137, reason: 'OOMKilled', finishedAt: '2026-11-01T00:00:30Z' } },
          },
        ],
      },
    }) as PodObject;
    expect(pod.containers.map(({ name, role }) => [name, role])).toEqual([
      ['model', 'main'],
      ['lay', 'start-up'],
      ['door', 'helper'],
    ]);
    expect(pod.containers[0]).toMatchObject({
      cpuRequest: 0.1,
      cpuLimit: null,
      memoryLimit: 2 ** 31,
      restarts: 3,
      state: { is: 'running' },
      lastEnd: { exitCode: 137 },
    });
    expect(pod.overhead.cpu).toBe(0.01);
  });

  it('takes hostile shapes for absent fields', () => {
    const strange = {
      metadata: {
        name: 'p',
        uid: 'u',
        labels: { a: 5, b: 'x'.repeat(9999) },
        ownerReferences: 'none',
        creationTimestamp: 7,
      },
      spec: { containers: [null, 5, { name: {} }] },
      status: { conditions: { length: 9 }, phase: ['Running'] },
    };
    const pod = readObject('pod', strange) as PodObject;
    expect(pod).toMatchObject({ phase: 'unknown', owner: null, createdAt: 0, conditions: [] });
    expect(pod.containers).toHaveLength(3);
    expect(pod.labels['b']).toHaveLength(2048);
    const odd = readObject('namespace', {
      metadata: { name: 'a\u0000b', uid: 'u', labels: { [`k\uD800`]: `\uDC00${'x'.repeat(2046)}😀` } },
    })!;
    expect(odd.name).toBe('a\uFFFDb');
    expect(odd.labels).toEqual({ 'k\uFFFD': `\uFFFD${'x'.repeat(2046)}\uFFFD` });
    for (const nothing of [null, 5, [], {}, { metadata: {} }]) expect(readObject('pod', nothing)).toBeNull();
  });

  it('does not see heartbeats as changes', () => {
    const node = (beat: string, ready: string) =>
      readObject('node', {
        metadata: meta('n'),
        status: {
          conditions: [
            { type: 'Ready', status: ready, lastHeartbeatTime: beat, lastTransitionTime: '2026-11-01T00:00:00Z' },
          ],
        },
      })!;
    expect(sameState(node('2026-11-01T00:00:10Z', 'True'), node('2026-11-01T00:00:20Z', 'True'))).toBe(true);
    expect(sameState(node('2026-11-01T00:00:10Z', 'True'), node('2026-11-01T00:00:10Z', 'False'))).toBe(false);
  });
});

describe('the owner chain', () => {
  const pod = (more: object) => readObject('pod', { metadata: meta('p', more), spec: { containers: [] } }) as PodObject;
  const set = readObject('replica set', { metadata: meta('model-5d', owned('Deployment', 'model')), spec: {} })!;
  const lookup = (uid: string): InventoryObject | undefined => (uid === set.uid ? set : undefined);
  it('ends at the deployment, the daemon set, the stateful set, or the pod itself', () => {
    expect(workloadOf(pod(owned('ReplicaSet', 'model-5d')), lookup)).toMatchObject({
      kind: 'deployment',
      name: 'model',
    });
    expect(workloadOf(pod(owned('ReplicaSet', 'lost-1')), lookup)).toMatchObject({
      kind: 'replica set',
      name: 'lost-1',
    });
    expect(workloadOf(pod(owned('StatefulSet', 'base')), lookup)).toMatchObject({ kind: 'stateful set', name: 'base' });
    expect(workloadOf(pod(owned('Ferry', 'x')), lookup)).toMatchObject({ kind: 'other', name: 'x' });
    expect(workloadKey(workloadOf(pod({}), lookup))).toBe('lone-pod:p');
  });
});

describe('versions', () => {
  const object = (name: string) => readObject('namespace', { metadata: meta(name) })!;
  const version = (name: string, fromEarliest: number, from: number, toEarliest: number | null, to: number | null) => ({
    object: object(name),
    fromEarliest,
    from,
    toEarliest,
    to,
  });
  it('are certain, uncertain while the connection was broken, or absent', () => {
    const versions = [version('a', 100, 100, 200, 300), version('b', 200, 300, 500, 500)];
    expect(stateAt(versions, 150)).toMatchObject({ known: 'certain', object: { name: 'a' } });
    expect(stateAt(versions, 250)).toMatchObject({ known: 'between', candidates: [{ name: 'a' }, { name: 'b' }] });
    expect(stateAt(versions, 300)).toMatchObject({ known: 'certain', object: { name: 'b' } });
    expect(stateAt(versions, 99)).toBeNull();
    expect(stateAt(versions, 500)).toBeNull();
  });
  it('say that an object may not have been there, or may be gone', () => {
    expect(stateAt([version('a', 100, 200, null, null)], 150)).toMatchObject({ candidates: [null, { name: 'a' }] });
    expect(stateAt([version('a', 100, 100, 200, 300)], 250)).toMatchObject({ candidates: [{ name: 'a' }, null] });
  });
});

describe('what happened', () => {
  const set = (name: string, created: string, tag: string) =>
    readObject('replica set', {
      metadata: { ...meta(name, owned('Deployment', 'checker')), creationTimestamp: created },
      spec: { template: { spec: { containers: [{ name: 'checker', image: `r/checker:${tag}` }] } } },
    }) as WorkloadObject;
  it('a new replica set of a deployment is a rollout, the first one is not', () => {
    const sets = [set('c-2', '2026-11-02T00:00:00Z', '2.9.l'), set('c-1', '2026-11-01T00:00:00Z', '2.9.0')];
    expect(rolloutsOf(sets)).toMatchObject([
      { name: 'checker', change: '2.9.0 → 2.9.l', at: Date.parse('2026-11-02') },
    ]);
    expect(rolloutsOf([sets[0]!])).toEqual([]);
    expect(
      rolloutsOf([set('c-1', '2026-11-01T00:00:00Z', '1'), set('c-2', '2026-11-02T00:00:00Z', '1')])[0]?.change,
    ).toBe('settings of its pods changed');
  });
  it('one end of a container is one restart, however many states repeat it', () => {
    const state = (phase: string) =>
      readObject('pod', {
        metadata: meta('p'),
        spec: { containers: [container('model')] },
        status: {
          phase,
          containerStatuses: [
            {
              name: 'model',
              state: { running: {} },
              lastState: { terminated: { exitCode: 137, reason: 'OOMKilled', finishedAt: '2026-11-01T05:00:00Z' } },
            },
          ],
        },
      }) as PodObject;
    expect(restartsOf([state('Running'), state('Pending')])).toMatchObject([
      { container: 'model', outOfMemory: true, at: Date.parse('2026-11-01T05:00:00Z') },
    ]);
  });
});

describe('words of tenants', () => {
  it('that every object of the language knows are words like any other', () => {
    for (const kind of ['constructor', '__proto__', 'toString', 'hasOwnProperty']) {
      const pod = readObject('pod', {
        metadata: {
          name: 'p',
          namespace: 'n',
          uid: 'u',
          ownerReferences: [{ kind, name: 'o', uid: 'o', controller: true }],
        },
      });
      if (pod?.kind !== 'pod') throw new Error('no pod was read');
      expect(workloadKey(workloadOf(pod, () => undefined))).toBe('other:o');
    }
  });
  it('are no phase that they do not name', () => {
    for (const phase of ['constructor', '__proto__', 'toString', 'Afloat', ''])
      expect(readObject('pod', { metadata: { name: 'p', uid: 'u' }, status: { phase } })).toMatchObject({
        phase: 'unknown',
      });
  });
  it('that are no address of a machine count as none', () => {
    for (const podIP of ['10.20.12.12.20.12.126', 'a b', 'http://x', '[::1', '10.0.0.1/8', 'x'.repeat(300), ''])
      expect([podIP, readObject('pod', { metadata: { name: 'p', uid: 'u' }, status: { podIP } })]).toMatchObject([
        podIP,
        { address: null },
      ]);
    for (const podIP of ['10.0.0.1', 'fd00::1', '::1'])
      expect(readObject('pod', { metadata: { name: 'p', uid: 'u' }, status: { podIP } })).toMatchObject({
        address: podIP,
      });
  });
});
