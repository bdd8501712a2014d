import { type AlertAnswer, readPath, SheetAnswer, writePath } from '@zetopsis/contract';
import { HOUR } from '@zetopsis/core/units';
import { describe, expect, it } from 'vitest';
import { BuiltCluster, GIB, harbour, iso, NOW } from '../../testing/builtCluster.ts';
import { ClusterColumns, tableRows } from '../columns/index.ts';
import { containerStates } from './containerStates.ts';
import { accessorySheet, counterpart, find, findAccessory, type SheetInput, usageSheet } from './index.ts';

const at = (text: string) => readPath(text.split('/'))!;
const TELLING = { at: NOW, zone: 'UTC' };
const USING = [
  'seaward',
  'seaward/team:ferries',
  'seaward/node:seaward-01',
  'seaward/node:seaward-02',
  'seaward/node:seaward-01/ticketing:front-1-a',
  'seaward/node:seaward-01/ticketing:front-1-a/main',
  'seaward/ticketing',
  'seaward/quiet',
  'seaward/ticketing/deployment:front',
  'seaward/ticketing/deployment:asleep',
  'seaward/ticketing/cron-job:count',
  'seaward/tides/replica-set:gone-1',
  'seaward/ticketing/deployment:front/front-1-b',
  'seaward/ticketing/deployment:front/front-1-b/main',
];
const THINGS = [
  'seaward/persistent-volume:v1',
  'seaward/tides/volume-claim:tables',
  ...['service:front', 'quota:all', 'limit-range:bounds', 'autoscaler:front'].map(
    (part) => `seaward/ticketing/${part}`,
  ),
  ...['disruption-budget:front', 'config-map:front-settings', 'secret:front-key'].map(
    (part) => `seaward/ticketing/${part}`,
  ),
];
const OWNERS = {
  ofNamespace: (namespace: string) => (namespace === 'ticketing' ? { key: 'ferries', name: 'Ferries' } : null),
  ofWorkload: () => null,
};
const ALERT: AlertAnswer = {
  id: 1,
  rule: 'fewer ready',
  ruleKey: 'readyPods',
  trial: false,
  hushed: null,
  taken: null,
  mayTake: true,
  severity: 'critical',
  title: 'front: 1 of 3 pods not ready',
  path: [],
  team: null,
  since: NOW - HOUR,
  raisedAt: NOW - HOUR,
  endedAt: null,
  endedHow: null,
  unseenSince: null,
  easingSince: null,
  value: '2 ready',
  limit: '3 desired',
  reason: '',
  evidence: '',
  changed: null,
  nextStep: 'Look.',
  told: [],
};
const usage = harbour().seen();
const columns = new ClusterColumns(usage, NOW, null, OWNERS);
const input = (path: string): SheetInput => ({
  usage,
  path: at(path),
  window: usage.window,
  owner: null,
  alerts: [],
  telling: TELLING,
  events: [],
  eventsMissing: null,
  runningOut: [],
  elsewhere: [],
  requests: [],
  processes: [],
  nodeDisk: null,
});
const sheetOf = (path: string): SheetAnswer => {
  const thing = findAccessory({ usage, path: at(path), other: null, telling: TELLING });
  if (thing) return accessorySheet(input(path), thing);
  return usageSheet({
    input: input(path),
    columns,
    found: find({ usage, columns, path: at(path), to: NOW })!,
    flows: [],
    against: null,
  });
};

describe('sheets', () => {
  it.each([...USING, ...THINGS])('of %s: as the contract says, and every path in it leads somewhere', (path) => {
    const sheet = SheetAnswer.parse(JSON.parse(JSON.stringify(sheetOf(path))));
    expect(sheet.path).toEqual(writePath(at(path)));
    for (const { path: other, name } of [...sheet.related, ...sheet.volumes, ...sheet.quotas]) {
      const to = readPath(other);
      expect(to, `${name} at ${other.join('/')}`).not.toBeNull();
      const found =
        to &&
        (findAccessory({ usage, path: to, other: null, telling: TELLING }) ||
          find({ usage, columns, path: to, to: NOW }));
      expect(found, `${name} at ${other.join('/')}`).toBeTruthy();
    }
  });
  it.each([
    'seaward/nothing',
    'seaward/ticketing/deployment:nothing',
    'seaward/ticketing/deployment:front/nothing',
    'seaward/ticketing/deployment:front/front-1-a/nothing',
    'seaward/node:nothing',
    'seaward/node:seaward-02/ticketing:front-1-a',
    'seaward/team:nobody-has-it',
  ])('there is none of %s', (path) => {
    expect(findAccessory({ usage, path: at(path), other: null, telling: TELLING })).toBeNull();
    expect(find({ usage, columns, path: at(path), to: NOW })).toBeNull();
  });
  it('there is none of a thing that is not there, or that is somebody else’s', () => {
    expect(
      findAccessory({ usage, path: at('seaward/ticketing/quota:none'), other: null, telling: TELLING }),
    ).toBeUndefined();
    const narrowed = harbour().seen((namespace) => namespace === 'ticketing');
    expect(
      findAccessory({ usage: narrowed, path: at('seaward/persistent-volume:v1'), other: null, telling: TELLING }),
    ).toBeUndefined();
    expect(
      findAccessory({ usage: narrowed, path: at('seaward/tides/volume-claim:tables'), other: null, telling: TELLING }),
    ).toBeUndefined();
    expect(
      find({ usage: narrowed, columns: new ClusterColumns(narrowed, NOW), path: at('seaward/tides'), to: NOW }),
    ).toBeNull();
  });
  it.each([
    ['seaward', 'cluster'],
    ['seaward/node:seaward-01', 'node'],
    ['seaward/ticketing', 'namespace'],
    ['seaward/ticketing/deployment:front', 'workload'],
    ['seaward/ticketing/deployment:front/front-1-b', 'pod'],
  ] as const)('of %s says what its row says', (path, level) => {
    const sheet = sheetOf(path);
    const rows = {
      cluster: () => [columns.clusterRow()],
      node: () => columns.nodesColumn().rows,
      namespace: () => columns.namespaces().rows,
      workload: () => columns.workloadsOf('ticketing').rows,
      pod: () => columns.podsColumn('ticketing', 'deployment:front').rows,
    }[level]();
    const row = rows.find(({ name }) => name === sheet.name)!;
    expect(sheet.usage?.cpu).toEqual(row.usage.cpu);
    expect(sheet.usage?.memory).toEqual(row.usage.memory);
    expect(sheet.restarts).toBe(row.restarts);
    expect(sheet.findings[0]?.severity ?? null).toBe(row.severity);
    const inTable = [...tableRows({ usage, columns, level, path: at('seaward') })].find(
      ({ row: own }) => own.key === row.key,
    );
    expect(inTable?.row).toEqual(row);
    expect(readPath(inTable?.path ?? [])).not.toBeNull();
  });
  it('of a deployment lead to its replica sets, whose pods and figures are a part of its own', () => {
    const front = sheetOf('seaward/ticketing/deployment:front');
    const line = front.related.find(({ kind }) => kind === 'replica set')!;
    expect(line.words).toMatch(/^2 of 3 pods ready · made /);
    const set = sheetOf(line.path.join('/'));
    expect(set.related.find(({ kind }) => kind === 'deployment')?.path).toEqual(front.path);
    expect(set.usage).toEqual(front.usage); // its only one
    expect(set.changes).toEqual([]);
    expect(columns.podsColumn('ticketing', 'replica-set:front-1').rows).toEqual(
      columns.podsColumn('ticketing', 'deployment:front').rows,
    );
    // one without pods has a sheet all the same
    expect(sheetOf('seaward/ticketing/replica-set:asleep-1').related.map(({ name }) => name)).toContain('asleep');
  });
  it('count containers by their state at every moment, of whole and part alike', () => {
    const cluster = harbour();
    const span = cluster.seen().view.podStates.find(({ pod }) => pod.name === 'front-1-b')!;
    const [main] = span.pod.containers;
    const waiting = { is: 'waiting' as const, reason: 'ImagePullBackOff', message: '' };
    cluster.state({ ...span.pod, containers: [{ ...main!, state: waiting }] }, NOW - 2 * HOUR);
    const then = cluster.seen();
    const sheet = (path: string) =>
      usageSheet({
        input: { ...input(path), usage: then },
        columns: new ClusterColumns(then, NOW, null, OWNERS),
        found: find({ usage: then, columns: new ClusterColumns(then, NOW), path: at(path), to: NOW })!,
        flows: [],
        against: null,
      }).flows.find(({ title }) => title === 'Containers by state')!;
    const line = (path: string, name: string) => sheet(path).lines.find((own) => own.name === name)!.values;
    const front = 'seaward/ticketing/deployment:front';
    expect([line(front, 'running')[0], line(front, 'waiting')[0]]).toEqual([2, 1]);
    expect([line(front, 'running').at(-1), line(front, 'waiting').at(-1)]).toEqual([3, 0]);
    const pods = ['front-1-a', 'front-1-b', 'front-1-c'];
    for (const name of ['running', 'waiting', 'ended']) {
      const parts = pods.map((pod) => line(`${front}/${pod}`, name));
      expect(line(front, name)).toEqual(parts[0]!.map((_, i) => parts.reduce((sum, own) => sum + (own[i] ?? 0), 0)));
    }
    // what is gone is counted while it was there
    expect(line('seaward/tides', 'running')[0]).toBe(2);
    expect(line('seaward/tides', 'running').at(-1)).toBe(1);
  });
  it('count no containers where nobody watched yet, which is not the same as none', () => {
    const { view, input } = harbour().seen();
    const late = view.podStates.map((state) => ({ ...state, from: NOW - HOUR }));
    const [flow] = containerStates(view.pods, late, input.grid);
    const running = flow!.lines[0]!.values;
    expect([running[0], running.at(-1)]).toEqual([null, 4]);
    expect(containerStates(view.pods, [], input.grid)).toEqual([]);
  });
  it('of what is scaled draw requests and pods on one axis, each of its highest', () => {
    const requests = [
      {
        title: 'Requests answered',
        unit: 'per s' as const,
        lines: [{ name: 'answered', values: [5, 10, null], against: null }],
        limit: null,
        empty: null,
      },
    ];
    const of = (path: string) => {
      const thing = findAccessory({ usage, path: at(path), other: null, telling: TELLING });
      const own = { ...input(path), requests };
      const sheet = thing
        ? accessorySheet(own, thing)
        : usageSheet({
            input: own,
            columns,
            found: find({ usage, columns, path: at(path), to: NOW })!,
            flows: [],
            against: null,
          });
      return sheet.flows.find(({ title }) => /^Requests and pods/.test(title));
    };
    const told = of('seaward/ticketing/autoscaler:front')!;
    expect(told.lines[0]?.values).toEqual([0.5, 1, null]);
    expect(Math.max(...told.lines[1]!.values.map((value) => value ?? 0))).toBe(1);
    expect(told.note).toMatch(/10.0 per s answered, and 3 pods of at most 3/);
    expect(of('seaward/ticketing/deployment:front')).toEqual(told);
    expect(of('seaward/ticketing/deployment:asleep')).toBeUndefined();
  });
  it('of a pod are the same over its workload and over its node', () => {
    const { path: _one, ...overWorkload } = sheetOf('seaward/ticketing/deployment:front/front-1-a');
    const { path: _other, ...overNode } = sheetOf('seaward/node:seaward-01/ticketing:front-1-a');
    expect(overNode).toEqual(overWorkload);
  });
  it('of a volume, its claim and the pod that mounts it say the same of its use', () => {
    const of = (path: string) => sheetOf(path).volumes.find(({ name }) => name === 'tables')?.figures;
    const claim = of('seaward/tides/volume-claim:tables');
    expect(claim?.use).toBe(9.5 * GIB);
    expect(of('seaward/persistent-volume:v1')).toEqual(claim);
    expect(of('seaward/tides/deployment:model/model-1-a')).toEqual(claim);
    expect(sheetOf('seaward/tides/volume-claim:tables').findings[0]?.reason).toMatch(/95/);
  });
  it('tell what one would change, in the words of the cluster’s own files', () => {
    const front = sheetOf('seaward/ticketing/deployment:front').changes;
    expect(front.some(({ title, text }) => /more memory for main/.test(title) && text.includes('1536Mi'))).toBe(true);
    expect(sheetOf('seaward/ticketing/quota:all').changes[0]?.text).toContain('limits.memory');
    expect(sheetOf('seaward/ticketing/autoscaler:front').flows.map(({ title }) => title)).toEqual([
      'Pods',
      'CPU, use of what is asked for',
    ]);
  });
  it('say why nothing stands in a chart, and nothing where something does', () => {
    for (const path of [
      'seaward',
      'seaward/ticketing',
      'seaward/ticketing/deployment:front',
      'seaward/node:seaward-01',
    ])
      expect([path, sheetOf(path).cpu?.empty]).toEqual([path, null]);
    expect(sheetOf('seaward/ticketing/deployment:asleep').cpu?.empty?.code).toBe('nothingRan');
    expect(sheetOf('seaward/ticketing/cron-job:count').memory?.empty?.code).toBe('noRun');
    expect(sheetOf('seaward/ticketing/deployment:front/front-1-c').memory?.empty?.code).toBe('notRead');
  });
  it('say which finding tells what a rule has raised, of the whole as of the part', () => {
    const reason = 'What was raised.';
    const path = 'seaward/ticketing/deployment:front';
    const [first] = sheetOf(path).findings;
    const alert = (text: string): AlertAnswer => ({ ...ALERT, path: path.split('/'), reason: text });
    const told = (of: string, text: string) =>
      usageSheet({
        input: { ...input(of), alerts: [alert(text)] },
        columns,
        found: find({ usage, columns, path: at(of), to: NOW })!,
        flows: [],
        against: null,
      });
    expect(told(path, first!.reason).raised.map(({ toldBy }) => toldBy)).toEqual([0]);
    // it was raised in the words of that moment, and is the same
    expect(told(path, reason).raised.map(({ toldBy }) => toldBy)).toEqual([0]);
    const climbs: AlertAnswer = { ...ALERT, path: `${path}/front-1-a/main`.split('/'), reason };
    const both = usageSheet({
      input: { ...input(path), alerts: [alert(reason), climbs] },
      columns,
      found: find({ usage, columns, path: at(path), to: NOW })!,
      flows: [],
      against: null,
    });
    expect(both.raised.map(({ toldBy }) => toldBy)).toEqual([0, null]);
    const whole = told('seaward/ticketing', first!.reason);
    expect(whole.findings[whole.raised[0]!.toldBy!]!.reason).toMatch(/^front: /);
  });
  it('name who else is on the node, and the node’s own load', () => {
    const sheet = sheetOf('seaward/ticketing/deployment:front/front-1-a');
    expect(sheet.tables[0]?.title).toBe('Who is on seaward-01, by share of the node (3 in all)');
    expect(sheet.tables[0]?.rows.flat()).toContain('front-1-a (this one)');
    expect(sheet.flows.map(({ title }) => title)).toEqual([
      'Containers by state',
      'Its node seaward-01: CPU',
      'Its node seaward-01: memory',
    ]);
  });
  it('compare a pod with the average pod of its workload, anything else with itself', () => {
    const pod = find({ usage, columns, path: at('seaward/ticketing/deployment:front/front-1-a'), to: NOW })!;
    const then = counterpart({
      other: usage,
      columns,
      found: pod,
      path: at('seaward/ticketing/deployment:front/front-1-a'),
      to: NOW,
    });
    const workload = find({ usage, columns, path: at('seaward/ticketing/deployment:front'), to: NOW })!;
    // two of three pods were read
    expect(then?.figures.cpu.use).toBeCloseTo(workload.node.usage.cpu.use! / workload.node.pods, 6);
    const same = counterpart({
      other: usage,
      columns,
      found: workload,
      path: at('seaward/ticketing/deployment:front'),
      to: NOW,
    });
    expect(same?.figures.cpu.use).toBe(workload.node.usage.cpu.use);
    const empty = new BuiltCluster().seen();
    expect(
      counterpart({
        other: empty,
        columns: new ClusterColumns(empty, NOW),
        found: workload,
        path: at('seaward/ticketing/deployment:front'),
        to: NOW,
      }),
    ).toBeNull();
  });
});

describe('a rollout', () => {
  const controlled = (kind: string, name: string, uid: string) => ({
    ownerReferences: [{ kind, name, uid, controller: true }],
  });
  const world = () => {
    const cluster = new BuiltCluster()
      .node('seaward-01')
      .namespace('boarding')
      .deployment('boarding', 'gates', { desired: 2 });
    cluster.object({
      kind: 'replica set',
      name: 'gates-2',
      namespace: 'boarding',
      rest: { spec: { replicas: 2, template: { spec: { containers: [{ name: 'main', image: 'gates:2' }] } } } },
      meta: { creationTimestamp: iso(NOW - HOUR), ...controlled('Deployment', 'gates', 'deployment boarding/gates') },
    });
    return cluster;
  };
  const sheet = (cluster: BuiltCluster) => {
    const seen = cluster.seen();
    const path = 'seaward/boarding/deployment:gates';
    const own = new ClusterColumns(seen, NOW);
    return usageSheet({
      input: { ...input(path), usage: seen },
      columns: own,
      found: find({ usage: seen, columns: own, path: at(path), to: NOW })!,
      flows: [],
      against: null,
    });
  };
  it('is told while old and new pods stand beside each other', () => {
    const cluster = world()
      .pod('boarding', 'gates-1-a', { workload: 'gates', node: 'seaward-01', cpu: 0.2, memory: GIB })
      .pod('boarding', 'gates-1-b', { workload: 'gates', node: 'seaward-01', ready: false });
    const { rollout } = sheet(cluster);
    expect(rollout).toMatchObject({ at: NOW - HOUR, desired: 2, old: 2, goesOn: true, expectedEnd: null });
    expect(rollout?.sides).toMatchObject([
      { name: 'new', images: '2', pods: 0, cpu: null },
      { name: 'old', pods: 2, ready: 1 },
    ]);
    expect(rollout?.sides[1]?.cpu).toBeCloseTo(0.2, 6);
  });
  it('is not told where none was', () => {
    expect(sheet(new BuiltCluster().node('seaward-01').deployment('boarding', 'gates')).rollout).toBeNull();
  });
});
