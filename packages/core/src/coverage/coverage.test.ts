import { describe, expect, it } from 'vitest';
import { toTheEnd } from '../steps/index.ts';
import {
  CensusCount,
  type CensusSeries,
  coverLedger,
  type PageState,
  pageChanges,
  type RunningContainer,
} from './index.ts';

const NOW = 1_700_000_000_000;
const censusOf = (all: readonly CensusSeries[], most: number, find = '') => {
  const count = new CensusCount();
  for (const one of all) count.add(one);
  return toTheEnd(count.census(most, find));
};
const page = (more: Partial<PageState> = {}): PageState => ({
  id: 1,
  state: 'read',
  since: NOW - 1e6,
  lastReadingAt: NOW - 5000,
  error: null,
  ...more,
});
const container = (more: Partial<RunningContainer> = {}): RunningContainer => ({
  namespace: 'tides',
  workload: { kind: 'deployment', name: 'web' },
  pod: 'web-1',
  container: 'main',
  node: 'n1',
  since: NOW - 1e6,
  ever: 2,
  now: 2,
  ...more,
});
const ledger = (containers: RunningContainer[], pages: Record<string, PageState | null>) =>
  coverLedger({
    now: NOW,
    intervalMs: 15_000,
    vitals: 2,
    pageOf: (node) => pages[node] ?? null,
    nodes: Object.keys(pages).map((name) => ({ name, since: NOW - 1e7 })),
    containers,
  });

describe('the ledger', () => {
  it('has nothing to tell where everything is read', () => {
    const { rows, byNamespace } = ledger([container(), container({ pod: 'web-2' })], { n1: page() });
    expect(rows).toEqual([]);
    expect(byNamespace.get('tides')).toEqual({ containers: 2, read: 2 });
  });
  it('tells one cause once: the node, with how many are behind it', () => {
    const { rows, byNamespace } = ledger([container(), container({ pod: 'b' }), container({ pod: 'c', node: 'n2' })], {
      n1: page({ state: 'failing', error: 'Nothing listens.' }),
      n2: page({ id: 2 }),
    });
    expect(rows).toEqual([expect.objectContaining({ of: { kind: 'node', node: 'n1' }, state: 'unread', endpoint: 1 })]);
    expect(rows[0]?.reason).toBe('Nothing listens. 2 containers on it cannot be seen either.');
    expect(byNamespace.get('tides')).toEqual({ containers: 3, read: 1 });
  });
  it('tells a page that was never read from one that is read no more, and a late and a paused one', () => {
    const state = (own: Partial<PageState>) => ledger([], { n1: page(own) }).rows[0]?.state;
    expect(state({ state: 'failing', lastReadingAt: null })).toBe('never');
    expect(state({ state: 'failing' })).toBe('unread');
    expect(state({ state: 'late' })).toBe('late');
    expect(state({ state: 'paused' })).toBe('paused');
    expect(state({ state: 'waiting', lastReadingAt: null })).toBeUndefined();
  });
  it.each([
    [{ ever: 0, now: 0 }, 'never', /has no line of it/],
    [{ ever: 2, now: 0 }, 'unread', /has it no more/],
    [{ ever: 1, now: 1 }, 'never', /1 of the 2 vitals/],
  ] as const)('names a container that its node’s page lacks: %j', (more, state, reason) => {
    const { rows } = ledger([container(more)], { n1: page() });
    expect(rows).toEqual([
      expect.objectContaining({ of: expect.objectContaining({ kind: 'container' }), state, endpoint: 1 }),
    ]);
    expect(rows[0]?.reason).toMatch(reason);
  });
  it('gives a container that has just started three intervals', () => {
    const young = container({ ever: 0, now: 0, since: NOW - 44_000 });
    expect(ledger([young], { n1: page() }).rows).toEqual([]);
    expect(ledger([{ ...young, since: NOW - 45_000 }], { n1: page() }).rows).toHaveLength(1);
  });
  it('tells of a node that names no page, and does not count what is on no node', () => {
    const { rows, byNamespace } = ledger([container({ node: null })], { n1: null });
    expect(rows[0]?.reason).toMatch(/does not say at which address/);
    expect(byNamespace.get('tides')).toEqual({ containers: 1, read: 0 });
  });
});

describe('what is not as a day ago', () => {
  const was = { series: 100, bytes: 1000, durationMs: 300 };
  it('is told when it is twice or half', () => {
    expect(pageChanges(was, was)).toEqual([]);
    expect(pageChanges(was, { ...was, series: 199, bytes: 1999, durationMs: 599 })).toEqual([]);
    expect(pageChanges(was, { series: 200, bytes: 2000, durationMs: 600 })).toEqual([
      'its series grew from 100 to 200',
      'its page grew to 2.0 times its size',
      'reading it takes 2.0 times as long',
    ]);
    expect(pageChanges(was, { ...was, series: 50 })).toEqual(['its series fell from 100 to 50']);
  });
  it('is nothing for small ones and for what is not known', () => {
    expect(pageChanges({ series: 2, bytes: null, durationMs: 1 }, { series: 8, bytes: 9, durationMs: 20 })).toEqual([]);
  });
});

describe('the census', () => {
  const series = (metric: string, endpoint: number, ...labels: [string, string][]) => ({ metric, endpoint, labels });
  const all = [
    series('a', 1, ['pod', 'x'], ['zone', 'n']),
    series('a', 1, ['pod', 'y'], ['zone', 'n']),
    series('a', 2, ['pod', 'z'], ['zone', 'n']),
    series('b', 2, ['zone', 's']),
  ];
  it('counts by metric, label and endpoint, and the parts make the whole', () => {
    const census = censusOf(all, 10);
    expect(census.series).toBe(4);
    expect(census.metrics).toEqual([
      { name: 'a', series: 3, label: 'pod', values: 3, endpoints: 2 },
      { name: 'b', series: 1, label: 'zone', values: 1, endpoints: 1 },
    ]);
    expect(census.labels).toEqual([
      { name: 'pod', series: 3, values: 3 },
      { name: 'zone', series: 4, values: 2 },
    ]);
    expect([...census.endpoints]).toEqual([
      [1, 2],
      [2, 2],
    ]);
    expect(censusOf(all, 1).metrics).toHaveLength(1);
    expect(censusOf([], 1)).toMatchObject({ series: 0, metrics: [] });
  });
});
