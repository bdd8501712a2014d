import { describe, expect, it } from 'vitest';
import {
  factorOf,
  type KnownNames,
  mappingProblem,
  ownMapping,
  proposeVitals,
  rolesOf,
  type ServedMetric,
  VITAL_NAMES,
} from './index.ts';

const names = (...list: string[]) => new Set(list);
const KNOWN: KnownNames = {
  namespace: names('tides', 'berths'),
  pod: names('web-1', 'web-2', 'api-1'),
  podUid: names('u1', 'u2', 'u3'),
  container: names('web', 'api'),
  node: names('n1', 'n2'),
  claim: names('data-0'),
};
const metric = (name: string, labels: Record<string, string[]>, more: Partial<ServedMetric> = {}): ServedMetric => ({
  name,
  cumulative: /_total$/.test(name),
  series: 3,
  labels: new Map(Object.entries(labels).map(([label, values]) => [label, names(...values)])),
  ...more,
});
const OF_CONTAINER = { ns: ['tides', 'berths'], group: ['web-1', 'api-1'], unit: ['web', 'api'], host: ['n1'] };
const proposed = (...served: ServedMetric[]) =>
  proposeVitals(served, KNOWN).map(({ vital, mapping: own }) => [vital, own.metric, own.factor, own.labels]);

describe('our own mappings', () => {
  it('name all that a vital is told apart by', () => {
    for (const vital of VITAL_NAMES) {
      expect([vital, mappingProblem(vital, ownMapping(vital))]).toEqual([vital, null]);
      for (const role of rolesOf(vital)) expect([vital, role, ownMapping(vital).labels[role]]).not.toContain(undefined);
    }
  });
  it('a pod may be named by its uid, or by namespace and name', () => {
    const of = (labels: object) =>
      mappingProblem('container.cpu.time', { ...ownMapping('container.cpu.time'), labels });
    expect(of({ podUid: 'u', container: 'c' })).toBeNull();
    expect(of({ namespace: 'n', pod: 'p', container: 'c' })).toBeNull();
    expect(of({ pod: 'p', container: 'c' })).toMatch(/uid, or by namespace and name/);
    expect(of({ podUid: 'u' })).toMatch(/names the container is missing/);
    const wrong = { ...ownMapping('node.cpu.time'), factor: 0 };
    expect(mappingProblem('node.cpu.time', wrong)).toMatch(/more than 0/);
  });
});

describe('factors', () => {
  it.each([
    ['a_nanoseconds_total', 1e-9],
    ['a_cpu_ns', 1e-9],
    ['a_millis_total', 1e-3],
    ['a_kib', 1024],
    ['a_KB', 1000],
    ['a_mebibytes', 1024 ** 2],
    ['a_seconds_total', 1],
    ['a_columns', 1],
    ['a_items', 1],
  ])('%s is multiplied by %d', (name, factor) => {
    expect(factorOf(name)).toBe(factor);
  });
});

describe('proposals', () => {
  it('are made by words in names, by what counts up, and by labels whose values the inventory knows', () => {
    expect(
      proposed(metric('box_cpu_usage_ns_total', OF_CONTAINER), metric('box_mem_working_kib', OF_CONTAINER)),
    ).toEqual([
      ['container.cpu.time', 'box_cpu_usage_ns_total', 1e-9, { namespace: 'ns', pod: 'group', container: 'unit' }],
      [
        'container.memory.working_set',
        'box_mem_working_kib',
        1024,
        { namespace: 'ns', pod: 'group', container: 'unit' },
      ],
    ]);
  });
  it('take a uid where there is one, and need no namespace then', () => {
    const [first] = proposed(metric('box_cpu_usage_ns_total', { id: ['u1', 'u2'], unit: ['web'] }));
    expect(first?.[3]).toEqual({ podUid: 'id', container: 'unit' });
  });
  it('tell a node’s own from what runs on it', () => {
    expect(proposed(metric('machine_cpu_used_seconds_total', { host: ['n1', 'n2'] }))).toEqual([
      ['node.cpu.time', 'machine_cpu_used_seconds_total', 1, { node: 'host' }],
    ]);
  });
  it.each([
    ['a gauge of CPU', metric('box_cpu_usage', OF_CONTAINER)],
    ['a counter of memory', metric('box_mem_working_total', OF_CONTAINER)],
    ['a limit', metric('box_mem_working_limit_kib', OF_CONTAINER)],
    ['labels of other things', metric('box_cpu_usage_ns_total', { ...OF_CONTAINER, unit: ['x', 'y', 'z'] })],
    ['pods without a namespace', metric('box_cpu_usage_ns_total', { group: ['web-1'], unit: ['web'] })],
    ['no labels', metric('box_cpu_usage_ns_total', {})],
    ['another word', metric('box_boats_total', OF_CONTAINER)],
  ])('are not made of %s', (_, served) => {
    expect(proposed(served)).toEqual([]);
  });
  it('are not made of what is called as here already, and prefer the one with most series', () => {
    const own = ownMapping('container.cpu.time');
    const other = metric('box_cpu_usage_ns_total', OF_CONTAINER);
    expect(proposed(metric(own.metric, OF_CONTAINER), other)).toEqual([]);
    const more = metric('box_cpu_usage_seconds_total', OF_CONTAINER, { series: 9 });
    expect(proposed(other, more)[0]?.[1]).toBe('box_cpu_usage_seconds_total');
  });
});
