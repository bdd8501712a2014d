import { namesOf, readPath } from '@zetopsis/contract';
import { MINUTE } from '@zetopsis/core/units';
import { describe, expect, it } from 'vitest';
import { type BuiltCluster, GIB, harbour, NOW } from '../../testing/builtCluster.ts';
import { SUBJECTS, type Subject } from './index.ts';

const { containerMemory: memorySubjects, readyPods: readySubjects } = SUBJECTS;

const view = (cluster: BuiltCluster, more: { blind?: boolean; memory?: (uid: string) => number } = {}) => ({
  name: 'seaward',
  blind: more.blind ?? false,
  interval: 15_000,
  inventory: cluster.inventory,
  criticalityOf: () => ({ is: 'ordinary' as const, because: null }),
  memoryOf: (uid: string) => {
    const value = more.memory?.(uid);
    return value === undefined
      ? { times: [], values: [] }
      : { times: [NOW - 30_000, NOW - 15_000, NOW], values: [value, value, value] };
  },
});
const of = (subjects: Iterable<Subject>, workload: string) =>
  [...subjects].find((subject) => subject.workload === workload)!;

describe('subjects of rules', () => {
  it('are the containers that have a memory limit', () => {
    const subjects = [...memorySubjects(view(harbour()), 0.9)];
    expect(subjects).toHaveLength(4);
    expect(new Set(subjects.map(({ key }) => key)).size).toBe(4);
  });
  it('are firing above the limit’s share, calm below it, and say so when nothing was read', () => {
    const at = (share: number) =>
      of(memorySubjects(view(harbour(), { memory: () => share * GIB }), 0.9), 'deployment:front').verdict(NOW);
    expect([at(0.95).is, at(0.5).is]).toEqual(['holds', 'breaks']);
    expect(of(memorySubjects(view(harbour()), 0.9), 'deployment:front').verdict(NOW).is).toBe('noData');
  });
  it('tell of a container where it stands, what it uses and what became of it before', () => {
    const subjects = [...memorySubjects(view(harbour(), { memory: () => 0.95 * GIB }), 0.9)];
    const facts = subjects.find(({ key }) => key.includes('front-1-b'))!.facts(NOW, NOW - MINUTE);
    const path = readPath(facts.path)!;
    expect(path).toMatchObject({ is: 'container', namespace: 'ticketing', pod: 'front-1-b', container: 'main' });
    expect(facts.place).toEqual(namesOf(path));
    expect(facts.title).toBe('front uses 95 % of its memory limit');
    expect(facts.evidence).toContain('restarted 2 times before');
    expect(facts.share).toBeCloseTo(0.95);
  });
  it('are the workloads that keep pods; of a blind cluster nobody knows', () => {
    const front = of(readySubjects(view(harbour()), 0), 'deployment:front');
    expect(front.verdict(NOW).is).toBe('holds');
    expect(of(readySubjects(view(harbour()), 0), 'deployment:model').verdict(NOW).is).toBe('breaks');
    expect(of(readySubjects(view(harbour(), { blind: true }), 0), 'deployment:front').verdict(NOW).is).toBe('noData');
    const facts = front.facts(NOW, NOW - MINUTE);
    expect(readPath(facts.path)).toMatchObject({ is: 'workload', namespace: 'ticketing' });
    expect([facts.title, facts.value, facts.limit]).toEqual(['front: 1 of 3 pods not ready', '2 ready', '3 desired']);
  });
});
