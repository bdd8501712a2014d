import { describe, expect, it } from 'vitest';
import { failedBy } from '../answered/index.ts';
import { VITAL_NAMES, vitalOf } from '../vitals/index.ts';
import {
  type BuiltIn,
  builtIn,
  columnMeasure,
  type EachOf,
  type MeasuredPlace,
  requestMeasures,
  vitalMeasure,
} from './builtIns.ts';
import { checkMeasure } from './check.ts';
import { INVENTORY_VITALS, inventoryVital, isInventoryVital } from './inventoryVitals.ts';
import { parseMeasure } from './parse.ts';
import { printMeasure } from './print.ts';
import { unitName } from './units.ts';

const FIGURES: readonly BuiltIn[] = [
  'cpu',
  'memory',
  'cpu share of limit',
  'memory share of limit',
  'throttled',
  'restarts',
  'ready of desired',
  'network',
  'files',
  'volume',
  'memory running out',
];
const cluster = 'seaward';
const namespace = 'a "quoted" name\\';
const PLACES: readonly MeasuredPlace[] = [
  {},
  { cluster },
  { cluster, node: 'n1' },
  { cluster, team: 'Tides' },
  { cluster, namespace },
  { cluster, namespace, workload: { kind: 'deployment', name: 'w' } },
  { cluster, namespace, pod: 'p' },
  { cluster, namespace, pod: 'p', container: 'c' },
];
const HISTOGRAM = { type: 'histogram', unit: 'seconds' } as const;
const COUNTER = { type: 'counter', unit: null } as const;
/** Its unit; it is read, fits, and is written as it is printed. */
function unitOf(text: string): string {
  const read = parseMeasure(text);
  if (!('body' in read)) throw new Error(`${read.problem.text}: ${text}`);
  expect(printMeasure(read.body)).toBe(text);
  const checked = checkMeasure(read.body, {
    metric: (name) => (name === 'answers_seconds' ? HISTOGRAM : COUNTER),
    metrics: () => [],
    vital: (name) => {
      if (isInventoryVital(name)) return inventoryVital(name);
      const known = VITAL_NAMES.find((one) => one === name);
      if (known === undefined) return null;
      const { counts, unit } = vitalOf(known);
      return { type: counts ? 'counter' : 'gauge', unit: unit === 'seconds' || unit === 'bytes' ? unit : null };
    },
    vitals: () => VITAL_NAMES,
    measure: () => null,
    measures: () => [],
  });
  if (!('plan' in checked)) throw new Error(`${checked.problem.text}: ${text}`);
  return unitName(checked.plan.result.unit);
}

describe('measures of what is shown', () => {
  it('mean something of every figure at every place, in its unit', () => {
    const UNITS: Readonly<Record<BuiltIn, string>> = {
      cpu: 'cores',
      memory: 'bytes',
      'cpu share of limit': '',
      'memory share of limit': '',
      throttled: 'cores',
      restarts: '',
      'ready of desired': '',
      network: 'bytes per second',
      files: 'bytes',
      volume: '',
      'memory running out': 'seconds',
    };
    let told = 0;
    for (const place of PLACES)
      for (const figure of FIGURES) {
        const text = builtIn(figure, place, { apart: 90_000, bound: 2 ** 30 });
        if (text === null) continue;
        told++;
        expect([figure, unitOf(text)]).toEqual([figure, UNITS[figure]]);
      }
    expect(told).toBeGreaterThan(70);
    expect(builtIn('cpu', { cluster }, { apart: 42_000 })).toContain('per second over 42s');
    expect(builtIn('memory running out', { cluster })).toBeNull();
  });
  it('of a table’s columns have a line for each row', () => {
    const levels: readonly EachOf[] = ['cluster', 'namespace', 'workload', 'pod', 'container', 'node'];
    for (const level of levels)
      for (const column of [
        'cpu',
        'cpuRequest',
        'cpuLimit',
        'memory',
        'memoryRequest',
        'memoryLimit',
        'restarts',
        'throttled',
      ]) {
        const text = columnMeasure(column, level, { cluster });
        if (text !== null) expect([column, unitOf(text) !== undefined]).toEqual([column, true]);
      }
    expect(columnMeasure('cpu', 'workload', {})).toContain(
      'total for each cluster, k8s_namespace_name, workload, kind',
    );
    expect(columnMeasure('cpu', 'node', {})).toContain('node.cpu.time');
    expect(columnMeasure('constructor', 'pod', {})).toBeNull();
  });
  it('of every vital begin with it', () => {
    for (const name of VITAL_NAMES) unitOf(vitalMeasure(name, vitalOf(name).counts));
    for (const name of INVENTORY_VITALS) unitOf(vitalMeasure(name, false));
  });
  it('of requests count what failed by the one label that tells it', () => {
    const source = { count: 'answers_total', tellsFailures: true, buckets: 'answers_seconds_bucket', factor: 1 };
    const served = (value: string) =>
      [
        ['quay', 'north'],
        ['http_status', value],
      ] as const;
    const failed = failedBy([served('200'), served('503')]);
    expect(failed).toEqual({ label: 'http_status', is: 'matches', text: '5[0-9][0-9]' });
    const { requests, failures, latency, satisfaction } = requestMeasures(
      source,
      { cluster },
      { apart: 60_000, failed },
    );
    expect([unitOf(requests), unitOf(failures!), unitOf(latency!)]).toEqual(['per second', '', 'seconds']);
    expect(satisfaction).toMatch(/satisfaction with target 500ms overall/);
    expect(unitOf(satisfaction!)).toBe('');
    expect(failedBy([[['outcome', 'good']], [['outcome', 'failed']]])).toMatchObject({ label: 'outcome' });
    expect(failedBy([[['error_type', '503']], []])).toEqual({ label: 'error_type', is: 'is present' });
    // two labels of which neither tells all
    expect(failedBy([[['error_type', 'x']], [['outcome', 'failed']], [['outcome', 'good']]])).toBeNull();
    expect(requestMeasures({ ...source, buckets: null }, {}, { apart: 60_000, failed: null })).toMatchObject({
      failures: null,
      latency: null,
      satisfaction: null,
    });
  });
});
