import { ACCESSORY_KINDS, WORKLOAD_KINDS } from '@zetopsis/core/inventory';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { liesIn, namesOf, type ObjectPath, placeOf, readPath, touches, writePath } from './objectPath.ts';

const name = fc.stringMatching(/^[a-z0-9]([a-z0-9.-]{0,20}[a-z0-9])?$/);
const place = { cluster: name, namespace: name };
const workload = fc.record({ kind: fc.constantFrom(...WORKLOAD_KINDS), name });
const is = <T extends string>(what: T) => fc.constant(what);
const ofPod = fc.oneof(
  fc.record({ ...place, workload, node: fc.constant(null), pod: name }),
  fc.record({ ...place, workload: fc.constant(null), node: name, pod: name }),
);
const path: fc.Arbitrary<ObjectPath> = fc.oneof(
  fc.record({ is: is('everything') }),
  fc.record({ is: is('host'), host: name }),
  fc.record({ is: is('cluster'), cluster: name }),
  fc.record({ is: is('team'), cluster: name, team: fc.oneof(name, fc.constant('')) }),
  fc.record({ is: is('node'), cluster: name, node: name }),
  fc.record({ is: is('persistent volume'), cluster: name, volume: name }),
  fc.record({ is: is('namespace'), ...place }),
  fc.record({ is: is('workload'), ...place, workload }),
  fc.record({ is: is('accessory'), ...place, kind: fc.constantFrom(...ACCESSORY_KINDS), name }),
  ofPod.map((pod) => ({ ...pod, is: 'pod' as const })),
  fc.tuple(ofPod, name).map(([pod, container]) => ({ ...pod, is: 'container' as const, container })),
);

describe('paths of objects', () => {
  it('are read as they were written', () => {
    fc.assert(
      fc.property(path, (one) => {
        expect(readPath(writePath(one))).toEqual(one);
      }),
    );
  });
  it('are written as they were read, or cannot be read at all', () => {
    const part = fc.oneof(
      name,
      fc.string({ maxLength: 12 }),
      fc.constantFrom('node:a', 'team:', 'host:a', 'deployment:a', 'quota:a', 'a:b', ':a', 'a:'),
    );
    fc.assert(
      fc.property(fc.array(part, { maxLength: 6 }), (parts) => {
        const read = readPath(parts);
        if (read !== null) expect(writePath(read)).toEqual(parts);
      }),
    );
  });
  it('have a name for every part', () => {
    fc.assert(
      fc.property(path, (one) => {
        expect(namesOf(one)).toHaveLength(writePath(one).length);
      }),
    );
    expect(namesOf(readPath(['seaward', 'ticketing', 'cron-job:replan'])!)).toEqual(['seaward', 'ticketing', 'replan']);
    expect(namesOf(readPath(['seaward', 'node:seaward-07', 'ticketing:front-5d9f', 'web'])!)).toEqual([
      'seaward',
      'seaward-07',
      'front-5d9f',
      'web',
    ]);
  });
  it('name nothing where no object can stand', () => {
    for (const parts of [
      [''],
      ['host:'],
      ['host:pier-2', 'ticketing'],
      ['team:tides'],
      ['seaward', 'planet:x'],
      ['seaward', 'node:'],
      ['seaward', 'node:seaward-07', 'booking-front'],
      ['seaward', 'team:tides', 'ticketing'],
      ['seaward', 'ticketing', 'booking-front'],
      ['seaward', 'ticketing', 'quota:all', 'more'],
      ['seaward', 'ticketing', 'deployment:booking-front', 'pod', 'web', 'more'],
    ])
      expect(readPath(parts), parts.join('/')).toBeNull();
  });
  it('lie in themselves, in everything, and in what lies above them', () => {
    fc.assert(
      fc.property(path, (one) => {
        expect(liesIn(one, one)).toBe(true);
        expect(liesIn(one, { is: 'everything' })).toBe(true);
        if (one.is !== 'everything') expect(liesIn({ is: 'everything' }, one)).toBe(false);
        for (let length = 0; length < writePath(one).length; length++) {
          const above = readPath(writePath(one).slice(0, length));
          if (above !== null) expect(liesIn(one, above)).toBe(true);
        }
      }),
    );
  });
  it('lie in each other only when they are the same, and touch either way', () => {
    fc.assert(
      fc.property(path, path, (one, other) => {
        expect(touches(one, other)).toBe(touches(other, one));
        if (liesIn(one, other) && liesIn(other, one) && !('pod' in one)) expect(one).toEqual(other);
      }),
    );
  });
  it('of a pod are the same whichever way one came', () => {
    const overNode = readPath(['seaward', 'node:seaward-07', 'ticketing:front-5d9f'])!;
    const overWorkload = readPath(['seaward', 'ticketing', 'deployment:front', 'front-5d9f', 'web'])!;
    expect(liesIn(overWorkload, overNode)).toBe(true);
    expect(liesIn(overNode, { is: 'namespace', cluster: 'seaward', namespace: 'ticketing' })).toBe(true);
    expect(liesIn(overNode, { is: 'node', cluster: 'seaward', node: 'seaward-08' })).toBe(false);
  });
  it('never tell of what is in a namespace as of what all share', () => {
    fc.assert(
      fc.property(path, (one) => {
        const { cluster, namespace } = placeOf(one);
        expect(namespace === null).toBe(
          ['everything', 'host', 'cluster', 'team', 'node', 'persistent volume'].includes(one.is),
        );
        expect(cluster === null).toBe(one.is === 'everything' || one.is === 'host');
      }),
    );
  });
});
