import { describe, expect, it } from 'vitest';
import type { InventoryObject, ObjectVersion } from '../inventory/index.ts';
import { OBJECT_LABELS } from '../scouting/index.ts';
import { checkMeasure } from './check.ts';
import { evaluateMeasure } from './evaluate/evaluate.ts';
import { labelsAdded, type ObjectSpan, objectLabelsFrom, tieObjects } from './objectLabels.ts';
import { parseMeasure } from './parse.ts';

const object = (own: Partial<InventoryObject> & { kind: InventoryObject['kind']; name: string; uid: string }) =>
  ({ namespace: 'tides', labels: {}, owner: null, ...own }) as InventoryObject; // what is looked at here
const version = (own: InventoryObject, from: number, to: number | null = null): ObjectVersion => ({
  object: own,
  fromEarliest: from,
  from,
  toEarliest: to,
  to,
});
const owner = (kind: string, name: string, uid: string) => ({ kind, name, uid });
const pod = (node: string | null, labels: Record<string, string> = {}) =>
  object({
    kind: 'pod',
    name: 'gauge-1',
    uid: 'p1',
    node,
    labels,
    owner: owner('ReplicaSet', 'gauge-77', 'r1'),
  } as never);

const table = (wanted: readonly string[], versions: readonly ObjectVersion[]) => {
  const made = new Map<string, ObjectSpan[]>();
  const work = tieObjects(made, {
    cluster: 'seaward',
    versions,
    wanted: new Set(wanted),
    teamOf: (namespace, workload) =>
      workload === 'deployment:gauge' ? 'Gauges' : namespace === 'tides' ? 'Tides' : null,
  });
  while (!work.next().done);
  return objectLabelsFrom(made);
};
const replicas = version(
  object({ kind: 'replica set', name: 'gauge-77', uid: 'r1', owner: owner('Deployment', 'gauge', 'd1') } as never),
  0,
);
const series = { cluster: 'seaward', [OBJECT_LABELS.podUid]: 'p1', [OBJECT_LABELS.namespace]: 'tides' };

describe('labels of the object that a series belongs to', () => {
  it('are those of its pod: the workload above its replica set, its team, its node, and own ones that are wanted', () => {
    const labels = table(['app'], [replicas, version(pod('a', { app: 'gauge', secret: 'x' }), 10)]);
    const wanted = ['workload', 'kind', 'team', 'node', 'cluster', 'app', 'secret'];
    expect(labels(series, wanted)).toEqual([
      {
        from: 10,
        labels: { workload: 'gauge', kind: 'deployment', team: 'Gauges', node: 'a', cluster: 'seaward', app: 'gauge' },
      },
    ]);
    expect(labels({ ...series, [OBJECT_LABELS.podUid]: '', [OBJECT_LABELS.pod]: 'gauge-1' }, ['node'])).toEqual([
      { from: 10, labels: { node: 'a' } },
    ]);
  });
  it('are as they were: a change is a span of its own, a version that says the same is none', () => {
    const labels = table([], [replicas, version(pod(null), 10, 20), version(pod('a'), 20, 30), version(pod('a'), 30)]);
    expect(labels(series, ['node'])).toEqual([
      { from: 10, labels: {} },
      { from: 20, labels: { node: 'a' } },
    ]);
  });
  it('are the namespace’s where no pod is named, the node’s where nothing else is, and none of another cluster', () => {
    const labels = table(
      ['zone'],
      [
        version(object({ kind: 'namespace', name: 'tides', uid: 'n1', namespace: null } as never), 0),
        version(object({ kind: 'node', name: 'a', uid: 'o1', namespace: null, labels: { zone: 'east' } } as never), 0),
      ],
    );
    expect(labels({ cluster: 'seaward', [OBJECT_LABELS.namespace]: 'tides' }, ['team'])[0]?.labels).toEqual({
      team: 'Tides',
    });
    expect(labels({ cluster: 'seaward', [OBJECT_LABELS.node]: 'a' }, ['zone'])[0]?.labels).toEqual({ zone: 'east' });
    expect(labels({ cluster: 'landward', [OBJECT_LABELS.node]: 'a' }, ['zone'])).toEqual([]);
    expect(labels({}, ['team'])).toEqual([]);
  });
  it('are added by a measure, which asks for no more than it adds', () => {
    const parsed = parseMeasure('read level\n  add labels workload, node\n  total for each workload');
    if (!('body' in parsed)) throw new Error('it is read');
    const checked = checkMeasure(parsed.body, {
      metric: () => ({ type: 'gauge', unit: null }),
      metrics: () => [],
      vital: () => null,
      vitals: () => [],
      measure: () => null,
      measures: () => [],
    });
    if (!('plan' in checked)) throw new Error('it means something');
    expect([...labelsAdded(checked.plan)]).toEqual(['workload', 'node']);
    const told = evaluateMeasure(checked.plan, {
      series: () => [{ labels: series, interval: 10, times: [95, 100], values: [3, 4] }],
      histograms: () => [],
      objectLabels: table([], [replicas, version(pod('a'), 10)]),
      times: Float64Array.of(100),
      instant: true,
    });
    expect(told.lines.map(({ labels, values }) => [labels, values[0]])).toEqual([[{ workload: 'gauge' }, 4]]);
  });
});
