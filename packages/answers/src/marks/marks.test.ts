import { type AlertAnswer, liesIn, readPath } from '@zetopsis/contract';
import { type ObjectVersion, objectChanges } from '@zetopsis/core/inventory';
import type { LinkTurn } from '@zetopsis/core/links';
import { toTheEnd } from '@zetopsis/core/steps';
import { HOUR, MINUTE } from '@zetopsis/core/units';
import { describe, expect, it } from 'vitest';
import { harbour, iso, NOW } from '../../testing/builtCluster.ts';
import { marksOf } from './index.ts';

const changesOf = (versions: readonly ObjectVersion[]) => toTheEnd(objectChanges(versions));
const at = (text: string) => readPath(text.split('/').filter((part) => part !== ''))!;
const alert = (path: string[], raisedAt: number, endedAt: number | null = null) =>
  ({ path, raisedAt, endedAt, title: `alert on ${path.at(-1)}`, severity: 'critical' }) as AlertAnswer;

function world() {
  const cluster = harbour();
  // the pod as it was before its container was ended
  const now = cluster.seen().view.podStates.find(({ pod }) => pod.name === 'front-1-b')!.pod;
  const [main] = now.containers;
  cluster.state({ ...now, containers: [{ ...main!, restarts: 1, lastEnd: null }] });
  const settings = cluster.object({
    kind: 'config map',
    name: 'front-settings',
    namespace: 'ticketing',
    rest: { data: { size: '3' } },
  });
  const before = { ...settings, keys: { ...settings.keys, other: 'x' } };
  const version = (object: typeof settings, from: number) => ({
    object,
    from,
    fromEarliest: from,
    to: null,
    toEarliest: null,
  });
  cluster.changes = changesOf([version(before, NOW - 5 * HOUR), version(settings, NOW - HOUR)]);
  cluster.object({
    kind: 'job',
    name: 'count-1',
    namespace: 'ticketing',
    rest: {
      status: {
        failed: 1,
        conditions: [{ type: 'Failed', status: 'True', lastTransitionTime: iso(NOW - 30 * MINUTE) }],
      },
    },
    meta: {
      creationTimestamp: iso(NOW - HOUR),
      ownerReferences: [{ kind: 'CronJob', name: 'count', uid: 'x', controller: true }],
    },
  });
  return cluster.seen();
}

describe('marks', () => {
  const usage = world();
  const alerts = [
    alert(['seaward', 'ticketing', 'deployment:front'], NOW - 2 * HOUR, NOW - HOUR),
    alert(['seaward', 'tides', 'deployment:model'], NOW - HOUR),
    alert(['landward', 'ticketing', 'deployment:front'], NOW - HOUR),
    alert(['seaward', 'not', 'readable'], NOW - HOUR),
  ];
  const marks = (path: string, from = NOW - 3 * HOUR, to = NOW) => marksOf({ usage, alerts, path: at(path), from, to });
  const kinds = (path: string) => marks(path).map(({ kind }) => kind);

  it('tell restarts, changes, failed runs and alerts, oldest first', () => {
    const times = marks('seaward').map((mark) => mark.at);
    expect([...times].sort((a, b) => a - b)).toEqual(times);
    expect(new Set(kinds('seaward'))).toEqual(
      new Set(['raised', 'out of memory', 'config change', 'cleared', 'run failed']),
    );
  });
  it('tell of a pod that was put out, though others stand in for it', () => {
    const cluster = harbour();
    cluster.pod('ticketing', 'front-1-put-out', {
      workload: 'front',
      phase: 'Failed',
      ready: false,
      node: 'seaward-02',
      status: { state: {} },
    });
    const failed = cluster.inventory.list('pod').find(({ name }) => name === 'front-1-put-out')!;
    Object.assign(failed, { reason: 'Evicted' });
    const [mark] = marksOf({
      usage: cluster.seen(),
      alerts: [],
      path: at('seaward/ticketing/deployment:front'),
      from: NOW - 3 * HOUR,
      to: NOW,
    }).filter(({ kind }) => kind === 'pod lost');
    expect(mark).toMatchObject({ at: NOW - HOUR, title: 'front-1-put-out: evicted from node seaward-02' });
  });
  it('lie in the window, in the cluster, and lead somewhere', () => {
    for (const mark of marks('')) {
      expect(mark.at).toBeGreaterThanOrEqual(NOW - 3 * HOUR);
      expect(mark.at).toBeLessThanOrEqual(NOW);
      expect(liesIn(readPath(mark.path)!, at('seaward'))).toBe(true);
    }
    expect(marks('', NOW - 10 * MINUTE)).toEqual([]);
  });
  it('of a workload are its own, and what it reads', () => {
    expect(kinds('seaward/ticketing/deployment:front')).toEqual(
      expect.arrayContaining(['raised', 'cleared', 'out of memory', 'config change']),
    );
    expect(kinds('seaward/tides/deployment:model')).toEqual(['raised']);
    expect(kinds('seaward/ticketing/cron-job:count')).toEqual(['run failed']);
  });
  it('of a pod are the same, whichever way one came', () => {
    const overWorkload = marks('seaward/ticketing/deployment:front/front-1-b');
    expect(overWorkload.map(({ kind }) => kind)).toContain('out of memory');
    expect(marks('seaward/node:seaward-01/ticketing:front-1-b')).toEqual(overWorkload);
  });
  it('of a pod beside it leave its restarts out', () => {
    expect(kinds('seaward/ticketing/deployment:front/front-1-a')).not.toContain('out of memory');
  });
  it('say nothing of what somebody may not see', () => {
    const narrowed = harbour().seen((namespace) => namespace === 'tides');
    expect(
      JSON.stringify(marksOf({ usage: narrowed, alerts: [], path: at('seaward'), from: NOW - 3 * HOUR, to: NOW })),
    ).not.toContain('ticketing');
  });
  it('tell of links that are new or gone at whoever calls, without names of others', () => {
    const end = (namespace: string, workload: string, cluster = 'seaward') => ({ cluster, namespace, workload });
    const outside = end('', 'outside', '');
    const linkTurns: LinkTurn[] = [
      { from: end('ticketing', 'deployment:front'), to: end('tides', 'deployment:model'), at: NOW - HOUR, is: 'new' },
      { from: outside, to: end('tides', 'deployment:model'), at: NOW - HOUR / 2, is: 'gone' },
      {
        from: end('ticketing', 'deployment:front'),
        to: end('dues', 'deployment:papers', 'landward'),
        at: NOW - 1000,
        is: 'new',
      },
      { from: end('ticketing', 'deployment:front'), to: outside, at: NOW - 9 * HOUR, is: 'new' },
    ];
    const told = (sees: (namespace: string) => boolean, path = '') =>
      marksOf({
        usage: { ...harbour().seen(sees), linkTurns },
        alerts: [],
        path: at(path),
        from: NOW - 3 * HOUR,
        to: NOW,
      })
        .filter(({ kind }) => kind === 'new link' || kind === 'gone link')
        .map(({ title, path: own }) => [title, own.at(-1)]);
    expect(told(() => true)).toEqual([
      ['new: front calls model', 'deployment:front'],
      ['gone: outside calls model no more', 'deployment:model'],
      ['new: front calls a workload of others', 'deployment:front'],
    ]);
    expect(told(() => true, 'seaward/tides').map(([title]) => title)).toEqual(['gone: outside calls model no more']);
    expect(told((namespace) => namespace === 'tides')).toEqual([
      ['new: a workload of others calls model', 'deployment:model'],
      ['gone: outside calls model no more', 'deployment:model'],
    ]);
    expect(told((namespace) => namespace === 'boarding')).toEqual([]);
  });
});
