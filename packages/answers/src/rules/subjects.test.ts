import { namesOf, type ObjectPath, readPath, workloadIn } from '@zetopsis/contract';
import { workloadKey } from '@zetopsis/core/inventory';
import { MINUTE } from '@zetopsis/core/units';
import { describe, expect, it } from 'vitest';
import { type BuiltCluster, GIB, harbour, NOW } from '../../testing/builtCluster.ts';
import { memorySubjects, readySubjects, type Subject, traitsOf } from './index.ts';

const LEVELS = {
  levels: {
    warning: { bound: 0.9, low: null, holdsSeconds: 0, readings: null },
    critical: { bound: 0.97, low: null, holdsSeconds: 0, readings: null },
  },
  clears: { bound: null, low: null },
  side: 'above' as const,
};

const view = (cluster: BuiltCluster, more: { blind?: boolean; memory?: (uid: string) => number } = {}) => ({
  name: 'seaward',
  blind: more.blind ?? false,
  interval: 15_000,
  inventory: cluster.inventory,
  criticalityOf: () => ({ is: 'ordinary' as const, because: null }),
  memoryAt: (uid: string) => {
    const value = more.memory?.(uid);
    return value === undefined ? null : { at: NOW, value };
  },
});
const of = (subjects: Iterable<Subject>, workload: string) =>
  [...subjects].find(({ path }) => workloadKey(workloadIn(path)!) === workload)!;
const verdictsOf = (subject: Subject) => {
  const { warning, critical } = subject.verdicts(NOW);
  return [warning.is, critical.is];
};

describe('subjects of rules', () => {
  it('are the containers that have a memory limit', () => {
    const subjects = [...memorySubjects(view(harbour()), () => LEVELS)];
    expect(subjects).toHaveLength(4);
    expect(new Set(subjects.map(({ key }) => key)).size).toBe(4);
  });
  it('are past a level above the limit’s share, calm below it, and say so when nothing was read', () => {
    const at = (share: number) =>
      verdictsOf(
        of(
          memorySubjects(view(harbour(), { memory: () => share * GIB }), () => LEVELS),
          'deployment:front',
        ),
      );
    expect([at(0.98), at(0.95), at(0.5)]).toEqual([
      ['holds', 'holds'],
      ['holds', 'breaks'],
      ['breaks', 'breaks'],
    ]);
    expect(
      verdictsOf(
        of(
          memorySubjects(view(harbour()), () => LEVELS),
          'deployment:front',
        ),
      ),
    ).toEqual(['noData', 'noData']);
  });
  it('tell of a container where it stands, what it uses and what became of it before', () => {
    const subjects = [...memorySubjects(view(harbour(), { memory: () => 0.95 * GIB }), () => LEVELS)];
    const facts = subjects.find(({ key }) => key.includes('front-1-b'))!.facts(NOW, NOW - MINUTE);
    const path = readPath(facts.path)!;
    expect(path).toMatchObject({ is: 'container', namespace: 'ticketing', pod: 'front-1-b', container: 'main' });
    expect(facts.place).toEqual(namesOf(path));
    expect(facts.title).toBe('front uses 95 % of its memory limit');
    expect(facts.evidence).toContain('restarted 2 times before');
    expect(facts.share).toBeCloseTo(0.95);
  });
  it('are the workloads that keep pods; of a blind cluster nobody knows', () => {
    const front = of(readySubjects(view(harbour())), 'deployment:front');
    expect(front.verdicts(NOW).warning.is).toBe('holds');
    expect(verdictsOf(of(readySubjects(view(harbour())), 'deployment:model'))).toEqual(['breaks', 'breaks']);
    expect(verdictsOf(of(readySubjects(view(harbour(), { blind: true })), 'deployment:front'))).toEqual([
      'noData',
      'noData',
    ]);
    const facts = front.facts(NOW, NOW - MINUTE);
    expect(readPath(facts.path)).toMatchObject({ is: 'workload', namespace: 'ticketing' });
    expect([facts.title, facts.value, facts.limit]).toEqual(['front: 1 of 3 pods not ready', '2 ready', '3 desired']);
  });
});

it('objects bear the labels of their namespace and their node, which the cluster holds in no namespace', () => {
  const cluster = harbour();
  const { inventory } = cluster;
  const [node, space] = [inventory.list('node')[0]!, inventory.list('namespace')[0]!];
  inventory.changed({ ...node, labels: { tide: 'spring' } }, NOW, NOW);
  inventory.changed({ ...space, labels: { tier: 'gold' } }, NOW, NOW);
  const of = (path: ObjectPath) => traitsOf(view(cluster), path).labels;
  expect(of({ is: 'node', cluster: 'seaward', node: node.name })).toEqual({ tide: 'spring' });
  expect(of({ is: 'namespace', cluster: 'seaward', namespace: space.name })).toMatchObject({ tier: 'gold' });
});
