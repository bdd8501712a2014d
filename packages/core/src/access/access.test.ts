import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { assignedOwner, type Bound, LEVELS, type Owner, ownerOfNamespace, type Permit, Reach } from './index.ts';

const permit = (more: Partial<Permit>): Permit => ({
  level: 'read',
  cluster: null,
  namespace: null,
  why: 'a test',
  own: false,
  ...more,
});

const place = fc.constantFrom('seaward', 'landward', 'slipway');
const namespace = fc.constantFrom('tides', 'ticketing', 'manifests');
const bound: fc.Arbitrary<Bound> = fc.record({
  level: fc.constantFrom(...LEVELS),
  cluster: fc.option(place),
  namespace: fc.option(namespace),
});
const permits = fc.array(
  bound.map((part) => permit(part)),
  { maxLength: 4 },
);

describe('Reach', () => {
  it('lets nobody see anything without a permit', () => {
    const nobody = Reach.of([]);
    expect(nobody.sees({ cluster: null, namespace: null })).toBe(false);
    expect(nobody.sees({ cluster: 'seaward', namespace: null })).toBe(false);
    expect(nobody.sees({ cluster: 'seaward', namespace: 'tides' })).toBe(false);
    expect(nobody.mayEverywhere('read')).toBe(false);
  });

  it('a permit in one namespace shows that one, and of the cluster only that it is there', () => {
    const reach = Reach.of([permit({ cluster: 'seaward', namespace: 'tides', level: 'operate' })]);
    expect(reach.sees({ cluster: 'seaward', namespace: 'tides' })).toBe(true);
    expect(reach.sees({ cluster: 'seaward', namespace: 'ticketing' })).toBe(false);
    expect(reach.sees({ cluster: 'seaward', namespace: null })).toBe(true);
    expect(reach.sees({ cluster: 'landward', namespace: null })).toBe(false);
    expect(reach.whole('seaward')).toBe(false);
    expect(reach.may('operate', 'seaward', 'tides')).toBe(true);
    expect(reach.may('administer', 'seaward', 'tides')).toBe(false);
  });

  it('a namespace permitted in every cluster shows only clusters that have it', () => {
    const reach = Reach.of(
      [permit({ cluster: null, namespace: 'tides', level: 'read' })],
      (cluster, where) => cluster === 'seaward' && where === 'tides',
    );
    expect([reach.touches('seaward'), reach.touches('landward')]).toEqual([true, false]);
    expect(reach.mine().touches('seaward')).toBe(false);
    expect(reach.within([{ level: 'read', cluster: null, namespace: null }]).touches('landward')).toBe(false);
    // what was there once can still be asked for by its name
    expect(reach.reads('landward', 'tides')).toBe(true);
  });

  it('levels hold the ones before them', () => {
    fc.assert(
      fc.property(permits, place, fc.option(namespace), (own, cluster, where) => {
        const reach = Reach.of(own);
        for (let i = 1; i < LEVELS.length; i++)
          if (reach.may(LEVELS[i]!, cluster, where)) expect(reach.may(LEVELS[i - 1]!, cluster, where)).toBe(true);
      }),
    );
  });

  it('the whole of a cluster implies each of its namespaces, never the other way round', () => {
    fc.assert(
      fc.property(permits, place, namespace, fc.constantFrom(...LEVELS), (own, cluster, where, level) => {
        const reach = Reach.of(own);
        if (reach.may(level, cluster, null)) expect(reach.may(level, cluster, where)).toBe(true);
      }),
    );
  });

  it('a token reaches exactly where both the person and its bounds reach', () => {
    fc.assert(
      fc.property(permits, fc.array(bound, { maxLength: 3 }), place, namespace, (own, bounds, cluster, where) => {
        const person = Reach.of(own);
        const bounded = Reach.of(bounds.map((part) => permit(part)));
        const token = person.within(bounds);
        for (const level of LEVELS) {
          expect(token.may(level, cluster, where)).toBe(
            person.may(level, cluster, where) && bounded.may(level, cluster, where),
          );
        }
      }),
    );
  });

  it('mine holds only what the own teams own', () => {
    const reach = Reach.of([permit({ cluster: 'seaward', namespace: 'tides', own: true }), permit({ cluster: null })]);
    expect(reach.reads('seaward', 'ticketing')).toBe(true);
    expect(reach.mine().reads('seaward', 'ticketing')).toBe(false);
    expect(reach.mine().reads('seaward', 'tides')).toBe(true);
  });
});

describe('owners', () => {
  const team = (key: string, owns: Owner['owns']): Owner => ({ key, name: key, owns });
  const space = (name: string, labels = {}, annotations = {}) => ({ name, labels, annotations });
  const named = team('zulu', [{ by: 'name', cluster: null, namespace: 'tides' }]);
  const labelled = team('alpha', [{ by: 'label', cluster: null, key: 'team', is: 'tides' }]);
  const noted = team('beta', [{ by: 'annotation', cluster: 'landward', key: 'owner', is: 'beta' }]);

  it('a name is stronger than a label, a label than an annotation', () => {
    const all = [labelled, noted, named];
    const both = space('tides', { team: 'tides' }, { owner: 'beta' });
    expect(ownerOfNamespace(all, 'landward', both)?.team).toBe(named);
    expect(ownerOfNamespace([labelled, noted], 'landward', both)?.team).toBe(labelled);
    expect(ownerOfNamespace([noted], 'landward', both)?.team).toBe(noted);
    expect(ownerOfNamespace([noted], 'seaward', both)).toBeNull();
    expect(ownerOfNamespace(all, 'seaward', space('other'))).toBeNull();
  });

  it('a workload may be assigned otherwise', () => {
    const other = team('mail', [
      { by: 'object', cluster: null, namespace: 'tides', workload: 'deployment:tide-mailer' },
    ]);
    expect(
      assignedOwner({
        teams: [named, other],
        cluster: 'seaward',
        namespace: 'tides',
        workload: 'deployment:tide-mailer',
      }),
    ).toBe(other);
    expect(
      assignedOwner({
        teams: [named, other],
        cluster: 'seaward',
        namespace: 'tides',
        workload: 'deployment:tide-model',
      }),
    ).toBeNull();
    expect(ownerOfNamespace([other], 'seaward', space('tides'))).toBeNull();
  });
});
