import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  ClusterInventory,
  type InventoryObject,
  type ObjectVersion,
  readObject,
  stateAt,
  type VersionWrite,
} from './index.ts';

const namespace = (name: string, season = '', createdAt = 0): InventoryObject =>
  readObject('namespace', {
    metadata: { name, uid: `u-${name}`, creationTimestamp: new Date(createdAt).toISOString(), labels: { season } },
  })!;

/** What the store would hold after these writes. */
function stored(writes: readonly VersionWrite[]): Map<string, ObjectVersion[]> {
  const versions = new Map<string, ObjectVersion[]>();
  for (const write of writes) {
    if (write.write === 'open') {
      const list = versions.get(write.object.uid) ?? [];
      versions.set(write.object.uid, [
        ...list,
        { object: write.object, from: write.from, fromEarliest: write.fromEarliest, to: null, toEarliest: null },
      ]);
    } else if (write.write === 'close') {
      const list = versions.get(write.uid)!;
      versions.set(
        write.uid,
        list.map((version) =>
          version.from === write.from ? { ...version, to: write.to, toEarliest: write.toEarliest } : version,
        ),
      );
    }
  }
  return versions;
}
function inventory() {
  const writes: VersionWrite[] = [];
  return { writes, cluster: new ClusterInventory('c', (write) => writes.push(write)) };
}

describe('versions that a cluster’s news makes', () => {
  it('close exactly where the next one opens, whatever comes', () => {
    const { cluster, writes } = inventory();
    cluster.changed(namespace('a', 'calm'), 100, 100);
    cluster.changed(namespace('a', 'storm'), 200, 200);
    cluster.changed(namespace('a', 'storm'), 250, 250);
    cluster.changed(namespace('a', 'calm'), 300, 300);
    cluster.deleted('u-a', 400, 400);
    const versions = stored(writes).get('u-a')!;
    expect(versions.map(({ from, to }) => [from, to])).toEqual([
      [100, 200],
      [200, 300],
      [300, 400],
    ]);
    for (let at = 100; at < 400; at += 10) expect(stateAt(versions, at)?.known).toBe('certain');
    expect(stateAt(versions, 400)).toBeNull();
  });
  it('keep their order when two changes come in one millisecond', () => {
    const { cluster, writes } = inventory();
    cluster.changed(namespace('a', 'calm'), 100, 100);
    cluster.changed(namespace('a', 'storm'), 100, 100);
    cluster.changed(namespace('a', 'calm'), 100, 100);
    expect(
      stored(writes)
        .get('u-a')!
        .map(({ from, to }) => [from, to]),
    ).toEqual([
      [100, 101],
      [101, 102],
      [102, null],
    ]);
  });
  it('know that a change seen late may have happened earlier, but not before the state it ended', () => {
    const { cluster, writes } = inventory();
    cluster.changed(namespace('a', 'calm'), 500, 500);
    cluster.changed(namespace('a', 'storm'), 900, 100);
    const [first, second] = stored(writes).get('u-a')!;
    expect([first!.toEarliest, first!.to]).toEqual([500, 900]);
    expect([second!.fromEarliest, second!.from]).toEqual([100, 900]);
  });
  it('a list replaces what is held: what is missing ended, what is new began, the rest stays', () => {
    const { cluster, writes } = inventory();
    for (const name of ['a', 'b', 'c']) cluster.changed(namespace(name), 100, 100);
    const listed = [namespace('b'), namespace('c', 'storm'), namespace('d', '', 450)];
    expect([...cluster.resync({ kind: 'namespace', objects: listed, at: 500, earliest: 300 })]).toHaveLength(3);
    expect(
      cluster
        .list('namespace')
        .map(({ name }) => name)
        .sort(),
    ).toEqual(['b', 'c', 'd']);
    const versions = stored(writes);
    expect(versions.get('u-a')).toMatchObject([{ to: 500, toEarliest: 300 }]);
    expect(versions.get('u-b')).toMatchObject([{ to: null }]);
    expect(versions.get('u-c')).toMatchObject([
      { to: 500, toEarliest: 300 },
      { from: 500, fromEarliest: 300 },
    ]);
    // it says itself that it was made at 450
    expect(versions.get('u-d')).toMatchObject([{ from: 500, fromEarliest: 450 }]);
    const before = writes.length;
    expect([
      ...cluster.resync({ kind: 'namespace', objects: cluster.list('namespace'), at: 600, earliest: 600 }),
    ]).toHaveLength(3);
    expect(writes).toHaveLength(before);
  });
  it('deleting what is not held changes nothing', () => {
    const { cluster, writes } = inventory();
    expect(cluster.deleted('nobody', 1, 1)).toBe(false);
    expect(writes).toEqual([]);
  });
});

it('pods are found by their workload, and follow their owners', () => {
  const { cluster } = inventory();
  const owner = (kind: string, name: string) => [{ kind, name, uid: `u-${name}`, controller: true }];
  const set = (of: string) =>
    readObject('replica set', {
      metadata: { name: 'front-1', namespace: 'n', uid: 'u-front-1', ownerReferences: owner('Deployment', of) },
      spec: {},
    })!;
  cluster.changed(
    readObject('pod', {
      metadata: { name: 'front-1-x', namespace: 'n', uid: 'p', ownerReferences: owner('ReplicaSet', 'front-1') },
      spec: { containers: [] },
    })!,
    1,
    1,
  );
  expect(cluster.podsOf('n', 'replica-set:front-1').map(({ name }) => name)).toEqual(['front-1-x']);
  cluster.changed(set('front'), 2, 2);
  expect(cluster.podsOf('n', 'deployment:front').map(({ name }) => name)).toEqual(['front-1-x']);
  expect(cluster.podsOf('n', 'replica-set:front-1')).toEqual([]);
  cluster.deleted('p', 3, 3);
  expect(cluster.podsOf('n', 'deployment:front')).toEqual([]);
});

it('figures that an autoscaler sees are the newest, and no new version', () => {
  const writes: VersionWrite[] = [];
  const inventory = new ClusterInventory('c1', (write) => writes.push(write));
  const scaler = (share: number, most = 6) =>
    readObject('autoscaler', {
      metadata: { name: 'model', namespace: 'tides', uid: 'a', creationTimestamp: new Date(0).toISOString() },
      spec: {
        maxReplicas: most,
        metrics: [{ type: 'Resource', resource: { name: 'cpu', target: { averageUtilization: 70 } } }],
      },
      status: {
        currentMetrics: [{ type: 'Resource', resource: { name: 'cpu', current: { averageUtilization: share } } }],
      },
    })!;
  const seen = () => inventory.list('autoscaler')[0]?.seen;
  expect(inventory.changed(scaler(80), 1000, 1000)).toBe(true);
  expect(inventory.changed(scaler(167), 2000, 2000)).toBe(false);
  expect(seen()).toEqual([{ name: 'cpu', value: 167, aim: 70, share: true }]);
  expect(writes).toHaveLength(1);
  expect(inventory.changed(scaler(167, 9), 3000, 3000)).toBe(true);
  expect(writes).toHaveLength(3);
});

it('knows each object by its name as a search through its kind would, whatever was made, changed, removed and made anew', () => {
  const pod = (uid: string, name: string, space: string): InventoryObject =>
    readObject('pod', {
      metadata: { name, uid, namespace: space, creationTimestamp: new Date(0).toISOString() },
      spec: { containers: [] },
      status: {},
    })!;
  const act = fc.oneof(
    fc.record({
      does: fc.constant('hold' as const),
      uid: fc.nat(5),
      name: fc.nat(2),
      space: fc.constantFrom('tides', 'customs'),
    }),
    fc.record({ does: fc.constant('delete' as const), uid: fc.nat(5) }),
    fc.record({ does: fc.constant('space' as const), name: fc.nat(2) }),
  );
  fc.assert(
    fc.property(fc.array(act, { maxLength: 30 }), (acts) => {
      const { cluster } = inventory();
      acts.forEach((one, at) => {
        if (one.does === 'hold') cluster.changed(pod(`u${one.uid}`, `p${one.name}`, one.space), at, at);
        else if (one.does === 'delete') cluster.deleted(`u${one.uid}`, at, at);
        else cluster.changed(namespace(`s${one.name}`, String(at)), at, at);
      });
      for (const space of ['tides', 'customs', ''])
        for (const name of ['p0', 'p1', 'p2', 's0', 's1'])
          for (const kind of ['pod', 'namespace'] as const) {
            const alike = cluster.list(kind).filter((own) => own.name === name && (own.namespace ?? '') === space);
            const found = cluster.named(kind, space, name);
            expect(found === undefined ? alike.length === 0 : alike.includes(found as never)).toBe(true);
          }
    }),
  );
});
