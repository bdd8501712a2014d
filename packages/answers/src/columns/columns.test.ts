import { readPath, type UsageRow, writePath } from '@zetopsis/contract';
import { describe, expect, it } from 'vitest';
import { BuiltCluster, GIB, harbour, NOW } from '../../testing/builtCluster.ts';
import { ClusterColumns, columnsBelow, nodeAt, tableOf, tableRows, uidsOf } from './index.ts';
import { NOBODYS } from './rows.ts';

const OWNERS = {
  ofNamespace: (namespace: string) => (namespace === 'ticketing' ? { key: 'ferries', name: 'Ferries' } : null),
  ofWorkload: () => null,
};
const at = (text: string) => readPath(text.split('/').filter((part) => part !== ''))!;
const PATHS = [
  'seaward',
  'seaward/team:ferries',
  'seaward/node:seaward-01',
  'seaward/node:seaward-01/ticketing:front-1-a',
  'seaward/node:seaward-01/ticketing:front-1-a/main',
  'seaward/persistent-volume:v1',
  'seaward/ticketing',
  'seaward/ticketing/quota:all',
  'seaward/ticketing/deployment:front',
  'seaward/ticketing/deployment:front/front-1-a',
  'seaward/ticketing/deployment:front/front-1-a/main',
];
const drained = <T, R>(rows: Generator<T, R>): R => {
  for (;;) {
    const step = rows.next();
    if (step.done) return step.value;
  }
};

describe('columns', () => {
  const usage = harbour().seen();
  const columns = new ClusterColumns(usage, NOW, null, OWNERS);

  it('have the tightest first, and what nobody uses last', () => {
    const { rows } = columns.namespaces();
    expect(rows.map(({ name }) => name)).toEqual([
      'tides',
      'ticketing',
      'quiet',
      'the nodes themselves',
      'asked for, not used',
      'free',
    ]);
    const tightness = rows.slice(0, 3).map(({ usage: { cpu } }) => cpu.tightness ?? -1);
    expect([...tightness].sort((a, b) => b - a)).toEqual(tightness);
    expect(rows.map(({ owner }) => owner).slice(0, 2)).toEqual([null, 'Ferries']);
  });
  it('tell what nodes use themselves: with what their pods use it is what the nodes use, in the cluster as on each node', () => {
    const use = (rows: readonly UsageRow[], kind: string) => rows.find((row) => row.kind === kind)!.usage.memory.use!;
    const nodes = columns.nodesColumn().rows;
    const sum = nodes.reduce((total, { usage: own }) => total + own.memory.use!, 0);
    const { rows } = columns.namespaces();
    expect(use(rows, 'itself')).toBeCloseTo(Math.max(0, sum - columns.clusterRow().usage.memory.use!), 0);
    for (const node of nodes) {
      const pods = columns.podsOfNode(node.name).rows;
      const ofPods = pods.filter(({ kind, present }) => present && !NOBODYS.has(kind ?? ''));
      const itself = pods.find(({ kind }) => kind === 'itself')?.usage.memory.use ?? null;
      // of a node of which a pod is not read nobody knows what is its own
      if (ofPods.some(({ usage: own }) => own.memory.use === null)) expect(itself).toBeNull();
      else {
        const inPods = ofPods.reduce((total, { usage: own }) => total + own.memory.use!, 0);
        expect(itself).toBeCloseTo(Math.max(0, node.usage.memory.use! - inPods), 0);
      }
    }
    const { use: pods, request, limit } = columns.clusterRow().usage.memory;
    expect(use(rows, 'free')).toBeCloseTo(limit! - Math.max(pods! + use(rows, 'itself'), request!), 0);
  });
  it('show a workload that has no pod, and one whose pods are gone', () => {
    expect(columns.workloadsOf('ticketing').rows.map(({ key, present }) => [key, present])).toEqual([
      ['deployment:front', true],
      ['deployment:asleep', true],
      ['cron-job:count', true],
    ]);
    const gone = columns.workloadsOf('tides').rows.find(({ name }) => name.startsWith('gone'));
    expect(gone?.present).toBe(false);
  });
  it('count what is ready, restarted and out of memory the same on every level', () => {
    const pods = columns.podsColumn('ticketing', 'deployment:front').rows;
    const [workload] = columns.workloadsOf('ticketing').rows;
    const namespace = columns.namespaces().rows.find(({ key }) => key === 'ticketing');
    const cluster = columns.clusterRow();
    for (const row of [workload, namespace, cluster])
      expect([row?.restarts, row?.memoryEnds]).toEqual([
        pods.reduce((sum, { restarts }) => sum + restarts, 0),
        pods.reduce((sum, { memoryEnds }) => sum + memoryEnds, 0),
      ]);
    expect(workload?.memoryEnds).toBe(1);
    expect([workload?.ready, workload?.desired]).toEqual([2, 3]);
    expect([cluster.ready, cluster.desired]).toEqual([1, 2]);
  });
  it('tell how old each is, at the end of the window', () => {
    const day = 24 * 3_600_000;
    expect(columns.podsColumn('ticketing', 'deployment:front').rows.map(({ age }) => age)).toEqual([day, day, day]);
    const rows = [...columns.workloadsOf('ticketing').rows, ...columns.nodesColumn().rows];
    expect(new Set(rows.map(({ age }) => age))).toEqual(new Set([2 * day]));
    expect(columns.clusterRow().age).toBeNull();
  });
  it('name a node whose clock is not ours', () => {
    const skewed = harbour();
    skewed.skews.set('seaward-01', 60_000);
    const rows = new ClusterColumns(skewed.seen(), NOW).nodesColumn().rows;
    expect(rows.find(({ name }) => name === 'seaward-01')?.finding).toMatch(/clock is 60 s ahead/);
  });
  it('sum up to the level above', () => {
    const used = (rows: readonly { usage: { cpu: { use: number | null } } }[]) =>
      rows.reduce((sum, { usage: { cpu } }) => sum + (cpu.use ?? 0), 0);
    const namespaces = columns.namespaces().rows.filter(({ kind }) => kind === null);
    for (const { key, usage: own } of namespaces)
      if (own.cpu.use !== null) expect(used(columns.workloadsOf(key).rows)).toBeCloseTo(own.cpu.use, 6);
    const front = columns.workloadsOf('ticketing').rows[0]!;
    expect(used(columns.podsColumn('ticketing', 'deployment:front').rows)).toBeCloseTo(front.usage.cpu.use!, 6);
    expect(front.usage.cpu.use).toBeCloseTo(1.1, 2);
    expect(front.usage.memory.use).toBeCloseTo(1.45 * GIB, -6);
  });
  it('by teams hold every namespace once', () => {
    const { rows } = columns.teamsColumn();
    expect(rows.map(({ key, name }) => [key, name])).toEqual([
      ['team:ferries', 'Ferries'],
      ['team:', 'nobody'],
    ]);
    const below = rows.flatMap(({ key }) => columns.namespaces(key.slice('team:'.length)).rows);
    expect(below.map(({ name }) => name).sort()).toEqual(['quiet', 'ticketing', 'tides']);
  });
  it('by nodes show others as one nameless share', () => {
    const seen = new ClusterColumns(
      harbour().seen((namespace) => namespace === 'tides'),
      NOW,
    );
    const pods = seen.podsOfNode('seaward-01').rows;
    expect(pods.map(({ name, kind }) => (kind === 'others' ? 'others' : name))).toContain('others');
    expect(JSON.stringify(pods)).not.toContain('front');
    expect(JSON.stringify(seen.namespaces().rows)).not.toContain('ticketing');
    expect(seen.namespaces().rows.some(({ kind }) => kind === 'others')).toBe(true);
  });
  it('compare with the same, and name what is new and what is gone', () => {
    const before = new BuiltCluster().node('seaward-01').namespace('ticketing').deployment('ticketing', 'old');
    before.pod('ticketing', 'old-1-a', { workload: 'old', node: 'seaward-01', cpu: 1, memory: GIB });
    const compared = new ClusterColumns(usage, NOW, before.seen());
    const pairing = (rows: readonly { name: string; pairing: string | null }[]) =>
      Object.fromEntries(rows.map((row) => [row.name, row.pairing]));
    expect(pairing(compared.namespaces().rows)).toMatchObject({ ticketing: 'both', tides: 'new' });
    expect(pairing(compared.workloadsOf('ticketing').rows)).toMatchObject({ front: 'new', old: 'gone' });
    expect(pairing(columns.namespaces().rows)).toMatchObject({ ticketing: null });
  });

  it.each(PATHS)('below %s: one for each part of the path, and the next', (text) => {
    const path = at(text);
    const below = columnsBelow(columns, path, 'namespace');
    const parts = writePath(path).length;
    const leaf = ['container', 'accessory', 'persistent volume'].includes(path.is);
    expect(below).toHaveLength(leaf ? parts - 1 : parts);
    // what was chosen stands in the column of its level
    if (path.is !== 'accessory' && path.is !== 'persistent volume')
      writePath(path)
        .slice(1)
        .forEach((part, i) => {
          expect(below[i]?.rows.map(({ key }) => key)).toContain(part);
        });
  });
  it.each(PATHS)('the load of %s is that of its row', (text) => {
    const path = at(text);
    const node = nodeAt(usage, path);
    const uses = !['team', 'persistent volume', 'accessory'].includes(path.is);
    expect(node !== undefined).toBe(uses);
    if (node && path.is !== 'cluster') {
      const level = columnsBelow(columns, path, 'namespace')[writePath(path).length - 2];
      expect(level?.rows.find(({ key }) => key === writePath(path).at(-1))?.usage.cpu).toEqual(node.usage.cpu);
    }
  });
  it('events are those of an object and of what it owns', () => {
    expect(uidsOf(usage, at('seaward/ticketing'))).toBeNull();
    expect(uidsOf(usage, at('seaward/node:seaward-01'))).toEqual(['node /seaward-01', 'seaward-01']);
    expect(uidsOf(usage, at('seaward/node:nothing'))).toEqual([]);
    const workload = uidsOf(usage, at('seaward/ticketing/deployment:front'));
    expect(workload).toEqual(expect.arrayContaining(['replica set ticketing/front-1', 'pod ticketing/front-1-a']));
    expect(uidsOf(usage, at('seaward/ticketing/deployment:front/front-1-a'))).toEqual(
      uidsOf(usage, at('seaward/node:seaward-01/ticketing:front-1-a')),
    );
  });
});

describe('the table', () => {
  const usage = harbour().seen();
  const columns = new ClusterColumns(usage, NOW, null, OWNERS);
  const table = (level: Parameters<typeof tableRows>[0]['level'], path: string, find = '', most = 100) =>
    drained(tableOf(tableRows({ usage, columns, level, path: at(path) }), find, most));

  it.each(['cluster', 'node', 'namespace', 'workload', 'pod', 'container'] as const)(
    'of every %s has readable paths',
    (level) => {
      const { kept } = table(level, 'seaward');
      expect(kept.length).toBeGreaterThan(0);
      for (const { path, row } of kept) {
        expect(readPath(path)?.is, path.join('/')).toBe(level);
        expect(path.at(-1)).toBe(level === 'cluster' ? 'seaward' : row.key);
      }
    },
  );
  it('says of an object what its column says', () => {
    const inColumns = new Map(columns.workloadsOf('ticketing').rows.map((row) => [row.key, row]));
    const { kept } = table('workload', 'seaward/ticketing');
    expect(kept.map(({ row }) => row)).toEqual([...inColumns.values()]);
  });
  it('holds only what lies below the path', () => {
    for (const text of PATHS) {
      const { kept } = table('pod', text);
      const path = at(text);
      for (const { path: own } of kept) if ('namespace' in path) expect(own.join('/')).toContain(path.namespace);
    }
    expect(table('pod', 'seaward/team:ferries').kept).toHaveLength(3);
    expect(table('pod', 'seaward/node:seaward-02').kept.map(({ row }) => row.name)).toEqual(['front-1-c']);
    expect(table('container', 'seaward/ticketing/quota:all').kept).toEqual([]);
  });
  it('is searched, cut, and says how many are left', () => {
    expect(table('pod', 'seaward', 'FRONT-1-B').kept.map(({ row }) => row.name)).toEqual(['front-1-b']);
    const { kept, left } = table('pod', 'seaward', '', 2);
    expect([kept.length, left]).toEqual([2, table('pod', 'seaward').kept.length - 2]);
  });
});
