import { type ObjectPath, RuleDocument, writePath } from '@zetopsis/contract';
import {
  type ClusterEvent,
  ClusterInventory,
  type InventoryObject,
  type ObjectVersion,
} from '@zetopsis/core/inventory';
import type { ConditionOf } from '@zetopsis/core/rules';
import { HOUR, MINUTE } from '@zetopsis/core/units';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { expectedOccurrences } from './expected.ts';
import { heardOccurrences } from './heard.ts';
import { changedObjects } from './objectChanges.ts';
import { type Occurrence, occurrenceLines, occurrenceSubjects } from './occurrences.ts';

const T = 1_800_000_000_000;
const deployment = (name: string, more: object = {}): InventoryObject =>
  ({
    kind: 'deployment',
    uid: `uid-${name}`,
    name,
    namespace: 'tides',
    createdAt: T - 30 * 24 * HOUR,
    deletingSince: null,
    labels: {},
    owner: null,
    changedBy: null,
    desired: 2,
    present: 2,
    ready: 2,
    updated: 2,
    available: 2,
    paused: false,
    observed: true,
    images: [],
    revision: null,
    conditions: [],
    uses: { configMaps: [], secrets: [], claims: [] },
    ...more,
  }) as unknown as InventoryObject; // a deployment, as far as it is looked at here
const version = (object: InventoryObject, from: number, to: number | null = null): ObjectVersion => ({
  object,
  from,
  fromEarliest: from,
  to,
  toEarliest: to,
});
const so = (all: Iterable<Occurrence>) =>
  [...all].map(({ key, from, to, severity }) => [key.split(' ')[0], from - T, to === null ? null : to - T, severity]);

describe('what happened, as lines and as objects', () => {
  const occurrence = fc
    .record({
      key: fc.constantFrom('a', 'b', 'c'),
      severity: fc.constantFrom('warning' as const, 'critical' as const),
      from: fc.integer({ min: 0, max: 40 }),
      lasts: fc.option(fc.integer({ min: 0, max: 20 })),
    })
    .map(
      ({ key, severity, from, lasts }): Occurrence => ({
        key,
        severity,
        path: { is: 'cluster', cluster: key },
        name: key,
        from: from * MINUTE,
        to: lasts === null ? null : (from + lasts) * MINUTE,
        reason: '',
        evidence: '',
        nextStep: '',
        chosen: false,
      }),
    );
  it('say the same of every moment, whatever it was: live and looked back over', () => {
    const moments = Float64Array.from({ length: 50 }, (_, i) => i * MINUTE);
    fc.assert(
      fc.property(fc.array(occurrence, { maxLength: 12 }), (all) => {
        const subjects = new Map([...occurrenceSubjects(all)].map((subject) => [subject.name, subject]));
        const { lines, left } = occurrenceLines(all, moments, 100);
        expect(left).toBe(0);
        expect(lines.map(({ name }) => name).sort()).toEqual([...subjects.keys()].sort());
        for (const { line, name } of lines)
          for (const [i, at] of moments.entries()) {
            const isSo = all.filter((one) => one.key === name && at >= one.from && (one.to === null || at < one.to));
            const { warning } = subjects.get(name)!.verdicts(at);
            expect([line.values[i]! > 0.5, warning.is === 'holds']).toEqual([isSo.length > 0, isSo.length > 0]);
            const gravest = isSo.some(({ severity }) => severity === 'critical');
            expect(line.values[i]! > 1.5).toBe(gravest);
          }
      }),
    );
  });
});

it('of too many things those are looked back over that it happened to last', () => {
  const one = (key: string, from: number): Occurrence => ({
    key,
    severity: 'warning',
    path: { is: 'cluster', cluster: key },
    name: key,
    from,
    to: null,
    reason: '',
    evidence: '',
    nextStep: '',
    chosen: false,
  });
  const all = [one('old', 1), one('young', 5), one('older', 0), one('old', 9)];
  const { lines, left } = occurrenceLines(all, [0, 5, 10], 2);
  expect([lines.map(({ name }) => name), left]).toEqual([['old', 'young'], 1]);
});

describe('what a cluster says', () => {
  const inventory = new ClusterInventory('', () => undefined);
  const event = (more: Partial<ClusterEvent>): ClusterEvent => ({
    uid: 'e1',
    namespace: 'tides',
    about: { kind: 'Deployment', name: 'gauge', uid: 'uid-gauge' },
    type: 'warning',
    reason: 'Unhappy',
    message: 'the gauge is stuck',
    count: 3,
    firstAt: T - HOUR,
    lastAt: T,
    ...more,
  });
  const heard = (events: ClusterEvent[], reasons: string[] = []) => [
    ...heardOccurrences('seaward', inventory, events, { is: 'cluster event', reasons, standsSeconds: 600 }),
  ];
  it('stands for a while after it was said last, where the object stands', () => {
    const [one] = heard([event({})]);
    expect(one).toMatchObject({ from: T, to: T + 10 * MINUTE, reason: 'The cluster says: the gauge is stuck' });
    expect(writePath(one!.path)).toEqual(['seaward', 'tides', 'deployment:gauge']);
    expect(writePath(heard([event({ about: { kind: 'Barnacle', name: 'x', uid: 'u' } })])[0]!.path)).toEqual([
      'seaward',
      'tides',
    ]);
    expect(
      writePath(heard([event({ namespace: null, about: { kind: 'Barnacle', name: 'x', uid: 'u' } })])[0]!.path),
    ).toEqual(['seaward']);
  });
  it('is any warning where no reason is asked for, and any of the reasons where some are', () => {
    const events = [
      event({}),
      event({ uid: 'e2', type: 'normal' }),
      event({ uid: 'e3', reason: 'Pulled', type: 'normal' }),
    ];
    expect(heard(events)).toHaveLength(1);
    expect(heard(events, ['Pulled', 'Other'])).toHaveLength(1);
    expect(heard([event({ message: ' ' })])[0]!.reason).toBe('The cluster says: Unhappy');
  });
});

describe('an object', () => {
  const condition = (more: Partial<ConditionOf['object change']> = {}): ConditionOf['object change'] => ({
    is: 'object change',
    changes: ['created', 'changed', 'removed'],
    kinds: [],
    standsSeconds: 3600,
    ...more,
  });
  it('that was there before it was seen was not made; one that is young was', () => {
    expect(so(changedObjects('seaward', [version(deployment('old'), T)], condition()))).toEqual([]);
    const young = deployment('young', { createdAt: T - MINUTE });
    expect(so(changedObjects('seaward', [version(young, T)], condition()))).toEqual([['created', 0, HOUR, 'warning']]);
  });
  it('is changed where its states differ in what people would call a change', () => {
    const versions = [
      version(deployment('gauge'), T, T + MINUTE),
      version(deployment('gauge', { ready: 1 }), T + MINUTE, T + 2 * MINUTE),
      version(deployment('gauge', { desired: 5 }), T + 2 * MINUTE),
    ];
    expect(so(changedObjects('seaward', versions, condition()))).toEqual([
      ['changed', 2 * MINUTE, 2 * MINUTE + HOUR, 'warning'],
    ]);
    expect([...changedObjects('seaward', versions, condition())][0]!.reason).toBe('It was changed: 2 → 5 pods.');
  });
  it('that was removed stands as such until it is made anew', () => {
    const gone = version(deployment('gauge'), T, T + MINUTE);
    expect(so(changedObjects('seaward', [gone], condition({ changes: ['removed'] })))).toEqual([
      ['removed', MINUTE, MINUTE + HOUR, 'critical'],
    ]);
    const anew = version(deployment('gauge', { uid: 'uid-2', createdAt: T + 5 * MINUTE }), T + 5 * MINUTE);
    expect(so(changedObjects('seaward', [gone, anew], condition({ changes: ['removed'] })))).toEqual([
      ['removed', MINUTE, 5 * MINUTE, 'critical'],
    ]);
  });
  it('of other kinds, and changes that are not asked for, are left alone', () => {
    const gone = version(deployment('gauge'), T, T + MINUTE);
    expect(so(changedObjects('seaward', [gone], condition({ kinds: ['quota'] })))).toEqual([]);
    expect(so(changedObjects('seaward', [gone], condition({ changes: ['created'] })))).toEqual([]);
  });
});

describe('what is expected', () => {
  const ask = (versions: ObjectVersion[], more: Partial<ConditionOf['expected']>, namespaces: string[] = ['tides']) => {
    const condition: ConditionOf['expected'] = {
      is: 'expected',
      kinds: ['deployment'],
      names: [],
      least: null,
      most: null,
      extra: false,
      ...more,
    };
    const { applies } = RuleDocument.parse({ name: 'x', when: { is: 'not read' }, levels: { warning: {} } });
    const selects = (path: ObjectPath) => path.is === 'workload';
    return [
      ...expectedOccurrences({
        cluster: 'seaward',
        versions,
        applies: { ...applies, namespaces },
        condition,
        selects,
        from: T,
        to: T + HOUR,
      }),
    ];
  };
  it('is missing while nothing of its name is there with something ready', () => {
    const versions = [
      version(deployment('gauge'), T - HOUR, T + 10 * MINUTE),
      version(deployment('gauge', { ready: 0 }), T + 10 * MINUTE, T + 20 * MINUTE),
      version(deployment('gauge'), T + 30 * MINUTE),
    ];
    expect(so(ask(versions, { names: ['gauge'] }))).toEqual([['missing', 10 * MINUTE, 30 * MINUTE, 'critical']]);
    expect(ask(versions, { names: ['ga*'] })[0]!.reason).toBe('It is there, and nothing of it is ready.');
    const [missing] = ask(versions, { names: ['lantern'] });
    expect([missing!.from, missing!.to, missing!.reason]).toEqual([T, null, 'It should be there, and is not.']);
    expect(writePath(missing!.path)).toEqual(['seaward', 'tides', 'deployment:lantern']);
    expect(writePath(ask([], { names: ['lantern*'] })[0]!.path)).toEqual(['seaward', 'tides']);
  });
  it('is missed by nobody elsewhere', () => {
    const elsewhere = version(deployment('gauge', { namespace: 'customs' }), T - HOUR);
    expect(so(ask([elsewhere], { names: ['gauge'] }))).toEqual([['missing', 0, null, 'critical']]);
    expect(so(ask([elsewhere], { names: ['gauge'] }, []))).toEqual([]);
  });
  it('is told of what is there beside, where nothing else should be', () => {
    const versions = [
      version(deployment('gauge'), T - HOUR),
      version(deployment('stowaway'), T + MINUTE, T + 2 * MINUTE),
    ];
    expect(so(ask(versions, { names: ['gauge'], extra: true }))).toEqual([['extra', MINUTE, 2 * MINUTE, 'warning']]);
  });
  it('is missing at every moment at which nothing of its name works, and said to be there where it is', () => {
    const span = fc.record({
      from: fc.integer({ min: -10, max: 50 }),
      lasts: fc.option(fc.integer({ min: 1, max: 40 })),
      ready: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(span, { maxLength: 8 }), (spans) => {
        const versions = spans.map(({ from, lasts, ready }, i) =>
          version(
            deployment(`quay-${i}`, { ready: ready ? 1 : 0 }),
            T + from * MINUTE,
            lasts === null ? null : T + (from + lasts) * MINUTE,
          ),
        );
        const found = ask(versions, { names: ['quay-*'] });
        const thereAt = (at: number, ready: number) =>
          versions.some(
            ({ from, to, object }) =>
              from <= at && (to === null || to > at) && object.kind === 'deployment' && object.ready >= ready,
          );
        for (let minute = 0; minute < 60; minute++) {
          const at = T + minute * MINUTE;
          const told = found.filter((one) => at >= one.from && (one.to === null || at < one.to));
          expect(told.length).toBe(thereAt(at, 1) ? 0 : 1);
        }
        for (const one of found) expect(one.reason.startsWith('It is there')).toBe(thereAt(one.from, 0));
      }),
    );
  });
  it('is counted at every moment, whatever comes and goes', () => {
    const span = fc.record({
      from: fc.integer({ min: -10, max: 50 }),
      lasts: fc.option(fc.integer({ min: 1, max: 40 })),
    });
    fc.assert(
      fc.property(fc.array(span, { maxLength: 8 }), fc.integer({ min: 0, max: 4 }), fc.nat(4), (spans, least, more) => {
        const versions = spans.map(({ from, lasts }, i) =>
          version(deployment(`quay-${i}`), T + from * MINUTE, lasts === null ? null : T + (from + lasts) * MINUTE),
        );
        const found = ask(versions, { least, most: least + more });
        for (let minute = 0; minute < 60; minute++) {
          const at = T + minute * MINUTE;
          const count = versions.filter((one) => one.from <= at && (one.to === null || one.to > at)).length;
          const told = found.some((one) => at >= one.from && (one.to === null || at < one.to));
          expect(told).toBe(count < least || count > least + more);
        }
      }),
    );
  });
});
