import {
  type ConnectionAnswer,
  type DeliveryAnswer,
  type EndpointAnswer,
  NowAnswer,
  type ObjectPath,
  readPath,
  touches,
} from '@zetopsis/contract';
import { isShort } from '@zetopsis/core/findings';
import { HOUR } from '@zetopsis/core/units';
import { describe, expect, it } from 'vitest';
import { BuiltCluster, GIB, harbour, NOW } from '../../testing/builtCluster.ts';
import { ClusterColumns } from '../columns/index.ts';
import type { SeenUsage } from '../usage/index.ts';
import { blindSpots, blindThen, needsOf, runningOutSoon } from './index.ts';

const at = (text: string): ObjectPath => readPath(text.split('/').filter((part) => part !== ''))!;
const ownerAt = (path: ObjectPath) => ('namespace' in path && path.namespace === 'ticketing' ? 'Ferries' : null);

function needs(path: string, usage: SeenUsage = harbour().seen(), other: SeenUsage | null = null) {
  const work = needsOf({ clusters: [{ usage, other }], path: at(path), window: usage.window, alerts: [], ownerAt });
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
  }
}

describe('Now', () => {
  it('has the gravest first, of every place once, with its owner', () => {
    const { failing } = needs('');
    const severities = failing.map(({ finding }) => finding.severity);
    expect([...severities].sort()).toEqual(severities);
    const places = failing.map(({ path }) => path.join('/'));
    expect(new Set(places).size).toBe(places.length);
    expect(places).toContain('seaward/node:seaward-02');
    expect(failing.find(({ path }) => path[1] === 'ticketing')?.team).toBe('Ferries');
    expect(failing.find(({ path }) => path[1] === 'tides')?.team).toBeNull();
    for (const one of failing) expect(() => NowAnswer.shape.failing.element.parse(one)).not.toThrow();
  });
  it('says of a place what its row says', () => {
    const usage = harbour().seen();
    const columns = new ClusterColumns(usage, NOW);
    const { failing, tightest } = needs('', usage);
    const workloads = new Map(
      ['ticketing', 'tides'].flatMap((space) =>
        columns.workloadsOf(space).rows.map((row) => [`${space}/${row.key}`, row]),
      ),
    );
    for (const { path, finding } of failing) {
      const row = workloads.get(path.slice(1).join('/'));
      const state = columns.workloads.find(
        ({ workload, key }) => `${workload.namespace}/${key}` === path.slice(1).join('/'),
      );
      if (row && state?.because === null) expect(finding.reason).toBe(row.finding);
      // that pods of it stand on a lost node is told there; what else is wrong with it is told here
      if (state?.because) expect(isShort(finding.code)).toBe(false);
    }
    for (const { path, row, resource } of tightest)
      expect(row.usage[resource]).toEqual(workloads.get(path.slice(1).join('/'))?.usage[resource]);
    const figures = tightest.map(({ row, resource }) => row.usage[resource].tightness!);
    expect([...figures].sort((a, b) => b - a)).toEqual(figures);
  });
  it.each([
    'seaward',
    'seaward/ticketing',
    'seaward/ticketing/deployment:front',
    'seaward/node:seaward-02',
    'landward',
  ])('holds only what touches %s', (path) => {
    const { failing, tightest, changed } = needs(path);
    for (const one of [...failing, ...tightest, ...changed]) expect(touches(readPath(one.path)!, at(path))).toBe(true);
    if (path === 'landward') expect([failing, tightest, changed]).toEqual([[], [], []]);
  });
  it('leaves what a lost node explains to the node’s line, and says it where one looks closer', () => {
    const lost = new BuiltCluster()
      .node('seaward-01', { ready: false })
      .deployment('tides', 'model', { desired: 1, ready: 0 })
      .pod('tides', 'model-1-a', { workload: 'model', node: 'seaward-01', ready: false })
      .seen();
    expect(needs('', lost).failing.map(({ path }) => path[1])).toEqual(['node:seaward-01']);
    expect(needs('seaward/tides', lost).failing.map(({ path }) => path.at(-1))).toContain('deployment:model');
  });
  it('compares the tightest with the same in the other window', () => {
    const before = new BuiltCluster().node('seaward-01').deployment('ticketing', 'front');
    before.pod('ticketing', 'front-1-a', {
      workload: 'front',
      node: 'seaward-01',
      cpu: 0.1,
      memory: 0.1 * GIB,
      limits: { cpu: '1', memory: '1Gi' },
    });
    const { tightest } = needs('', harbour().seen(), before.seen());
    const pairing = (space: string) => tightest.find(({ path }) => path[1] === space)?.row.pairing;
    expect([pairing('ticketing'), pairing('tides')]).toEqual(['both', 'new']);
    expect(needs('').tightest[0]?.row.pairing).toBeNull();
  });
});

describe('what runs out', () => {
  const line = (path: string[], outcome: object) => ({ path, what: 'volume', use: 1, limit: 2, outcome }) as never;
  const lines = [
    line(['seaward', 'tides', 'volume-claim:tables'], { is: 'date', at: NOW + HOUR }),
    line(['seaward', 'ticketing', 'volume-claim:sales'], { is: 'now' }),
    line(['seaward', 'node:seaward-01'], { is: 'later' }),
    line(['seaward'], { is: 'unknown' }),
  ];
  const soon = (path: string, sees?: (namespace: string) => boolean) =>
    runningOutSoon({ clusters: [harbour().seen(sees)], path: at(path), linesOf: () => lines, ownerAt });
  it('is soonest first, with its owner, and counted beyond', () => {
    expect(soon('')).toMatchObject({ later: 1, unknown: 1, lines: [{ team: 'Ferries' }, { team: null }] });
  });
  it('is told of what one may see, in the scope', () => {
    expect(soon('', (namespace) => namespace === 'tides')?.lines.map(({ path }) => path[1])).toEqual(['tides']);
    expect(soon('seaward/ticketing')).toMatchObject({
      later: 0,
      unknown: 0,
      lines: [{ path: ['seaward', 'ticketing', 'volume-claim:sales'] }],
    });
  });
  it('is not known before it was looked at', () => {
    expect(runningOutSoon({ clusters: [harbour().seen()], path: at(''), linesOf: () => null, ownerAt })).toBeNull();
  });
});

describe('blind spots', () => {
  const connection = (name: string, state: string) =>
    ({ name, state, reason: `${name} has a reason`, since: 1, nextStep: 'do this' }) as ConnectionAnswer;
  const endpoint = (name: string, state: string, cluster: string | null, lastError: string | null = null) =>
    ({ name, state, connection: cluster, lastError, since: 2 }) as EndpointAnswer;
  const well = { at: NOW, storeProblem: null, unforeseen: { count: 0, lately: null }, stop: null, anew: [] };
  it('are none where all is read', () => {
    expect(
      blindSpots({
        connections: [connection('a', 'reading'), connection('b', 'connecting')],
        endpoints: [endpoint('n', 'read', 'a')],
        own: well,
        dead: [],
      }),
    ).toEqual([]);
  });
  it('name each cause once; of a blind cluster only the cluster', () => {
    const spots = blindSpots({
      connections: [connection('a', 'blind'), connection('b', 'partly reading')],
      endpoints: [
        endpoint('a-1', 'failing', 'a', 'refused'),
        endpoint('b-1', 'failing', 'b', 'refused'),
        endpoint('b-2', 'failing', 'b', 'refused'),
        endpoint('b-3', 'late', 'b'),
        endpoint('outside', 'failing', null, 'refused'),
      ],
      own: well,
      dead: [],
    });
    expect(spots.map(({ what, reason }) => [what, reason])).toEqual([
      ['a', 'a has a reason'],
      ['b', 'b has a reason'],
      ['b › b-1 and 1 more', 'refused'],
      ['b › b-3', 'its reading is late'],
      ['outside', 'refused'],
    ]);
  });
  it('tell how Zetopsis itself is, and what could not be told', () => {
    const own = {
      at: NOW,
      storeProblem: 'no room',
      unforeseen: { count: 2, lately: 5 },
      stop: { at: 6, ms: 2500 },
      anew: [{ what: 'The server', why: 'it ended with code 1', at: 6.5, count: 1 }],
    };
    const dead = { to: 'tides@skerrivale.test', subject: 's', error: null, createdAt: 7 } as DeliveryAnswer;
    const spots = blindSpots({ connections: [], endpoints: [], own, dead: [dead] });
    expect(spots.map(({ since }) => since)).toEqual([NOW, 5, 6, 6.5, 7]);
    expect(spots.map(({ reason }) => reason).join(' ')).toMatch(
      /no room.*2 times.*for .*The server ended .it ended with code 1. and was begun anew.*no reason known/,
    );
    for (const { nextStep } of spots) expect(nextStep).not.toBeNull();
  });
  it('of a past moment are the gaps over it, by their reason', () => {
    const gap = (from: number, to: number | null, reason: string) => ({ from, to, reason });
    expect(
      blindThen([gap(1, null, 'refused'), gap(0, 20, 'refused'), gap(3, 9, 'late'), gap(2, 10, 'late')], 10),
    ).toEqual([{ what: '2 node pages', reason: 'refused', since: 0, nextStep: null }]);
  });
});
