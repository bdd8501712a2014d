import { EVERYTHING, type ObjectPath, RuleDocument } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { AT_LEAST, NONE, PARTIAL } from '@zetopsis/core/measures';
import { MINUTE } from '@zetopsis/core/units';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CASES, NOW } from '../../testing/fixtures/index.ts';
import { usageOfFixture } from '../fixture/index.ts';
import { wrongIn } from '../now/index.ts';
import {
  foundSubjects,
  type JudgedMeasure,
  lineKey,
  lineName,
  lineSubjects,
  pathOfLabels,
  selectorSeen,
  selects,
  selectsAll,
  silentSubjects,
} from './index.ts';

const THRESHOLDS = {
  levels: {
    warning: { bound: 0.8, low: null, holdsSeconds: 0, readings: null },
    critical: { bound: 0.9, low: null, holdsSeconds: 0, readings: null },
  },
  clears: { bound: 0.7, low: null },
  side: 'above' as const,
};
const CONDITION = {
  compare: 'above' as const,
  thresholds: THRESHOLDS,
  thresholdsAt: () => THRESHOLDS,
  boundWords: (bound: number, amount: (value: number) => string) => amount(bound),
  verb: '',
  rule: 'tide too high',
};
const nobody = () => null;
const measure = (values: number[], marks: number[], more: Partial<JudgedMeasure> = {}): JudgedMeasure => ({
  times: values.map((_, i) => i * MINUTE),
  lines: [
    { labels: { cluster: 'seaward', k8s_namespace_name: 'tides' }, name: null, values, marks: Uint8Array.from(marks) },
  ],
  unit: '',
  shownAs: 'percent',
  workloadOf: nobody,
  ...more,
});

describe('lines of a measure', () => {
  it('are judged moment by moment against each level; a part that was not read is known', () => {
    const [subject] = lineSubjects(measure([0.95, 0.85, 0.75, 0.5, 0], [0, PARTIAL, 0, 0, NONE]), CONDITION);
    const at = (minute: number) => subject!.verdicts(minute * MINUTE);
    expect(at(0)).toEqual({ warning: { is: 'holds' }, critical: { is: 'holds' } });
    expect(at(1)).toEqual({ warning: { is: 'holds', partial: true }, critical: { is: 'between' } });
    expect([2, 3, 4].map((minute) => at(minute).warning.is)).toEqual(['between', 'breaks', 'noData']);
    expect([subject!.value(0), subject!.value(4 * MINUTE)]).toEqual(['95 %', 'no value']);
    expect(subject!.facts(0, 0)).toMatchObject({
      title: 'tide too high: tides is 95 %',
      limit: 'the rule tells above 90 %',
      place: ['seaward', 'tides'],
      path: ['seaward', 'tides'],
    });
  });
  it('say of what is only known to be at least so much that it is', () => {
    const [subject] = lineSubjects(measure([0.95, 0.95], [AT_LEAST, 0]), CONDITION);
    expect([subject!.value(0), subject!.value(MINUTE)]).toEqual(['at least 95 %', '95 %']);
  });
  it('are missing where they had a value before', () => {
    const [subject] = lineSubjects(measure([1, 0], [0, NONE]), { ...CONDITION, compare: 'missing' });
    expect([0, 1].map((minute) => subject!.verdicts(minute * MINUTE).warning.is)).toEqual(['breaks', 'holds']);
    expect(subject!.facts(MINUTE, 0).title).toBe('tide too high: tides has no value');
  });
  it('stand where their labels say, and nowhere where these say nothing', () => {
    const space = { cluster: 'seaward', k8s_namespace_name: 'tides' };
    const model = { kind: 'deployment' as const, name: 'tide-model' };
    const is = (labels: Record<string, string>, workload: typeof model | null = null) =>
      pathOfLabels(labels, () => workload);
    expect(is({})).toEqual(EVERYTHING);
    expect(is({ cluster: 'seaward', k8s_node_name: 'n1' })).toMatchObject({ is: 'node', node: 'n1' });
    expect(is(space)).toMatchObject({ is: 'namespace', namespace: 'tides' });
    expect(is({ ...space, workload: 'tide-model', kind: 'deployment' })).toMatchObject({
      is: 'workload',
      workload: model,
    });
    expect(is({ ...space, pod: 'tide-model-1' })).toMatchObject({ is: 'namespace' });
    expect(is({ ...space, k8s_pod_name: 'tide-model-1', k8s_container_name: 'main' }, model)).toMatchObject({
      is: 'container',
      pod: 'tide-model-1',
      container: 'main',
    });
  });
  it('are called as what they are of, and what tells them apart beside', () => {
    const named = (labels: Record<string, string>, name: string | null = null) =>
      lineName(
        { labels, name },
        pathOfLabels(labels, () => null),
      );
    const space = { cluster: 'seaward', k8s_namespace_name: 'tides' };
    expect(named({})).toBe('all of it');
    expect(named({ quay: 'north' })).toBe('north');
    expect(named({ cluster: 'seaward', quay: 'north' })).toBe('seaward · north');
    expect(named({ cluster: 'seaward', k8s_node_name: 'n1', device: 'sda' })).toBe('n1 · sda');
    expect(named({ ...space, workload: 'model', kind: 'deployment', direction: 'receive' })).toBe('model · receive');
    expect(named(space, 'high water')).toBe('high water');
  });
  it('are the same object whatever the order of their labels', () => {
    fc.assert(
      fc.property(fc.dictionary(fc.string(), fc.string()), (labels) => {
        const turned = Object.fromEntries(Object.entries(labels).reverse());
        expect(lineKey({ labels: turned, name: null })).toBe(lineKey({ labels, name: null }));
      }),
    );
  });
});

describe('what is found', () => {
  it.each(CASES.map((one) => [one.name, one] as const))(
    '%s: is judged as Now shows it',
    (_name, { objects, lines = [], usage = [] }) => {
      const seen = usageOfFixture({ now: new Date(NOW).toISOString(), objects, usage, lines } as never);
      const shown = [...wrongIn(seen, EVERYTHING, NOW)].filter(({ findings }) => findings.length > 0);
      const subjects = [...foundSubjects(seen, [])];
      expect(subjects.map(({ path }) => path)).toEqual(shown.map(({ place }) => place));
      for (const [i, subject] of subjects.entries()) {
        const gravest = shown[i]!.findings.some(({ severity }) => severity === 'critical') ? 'critical' : 'warning';
        const { warning, critical } = subject.verdicts(NOW);
        expect([warning.is, critical.is === 'holds']).toEqual(['holds', gravest === 'critical']);
        expect(shown[i]!.findings.map(({ reason }) => reason)).toContain(subject.value(NOW));
      }
      expect([...foundSubjects(seen, ['apiSlow'])].every(({ path }) => path.is === 'cluster')).toBe(true);
    },
  );
});

describe('silent sources', () => {
  const connection = (name: string, state: string) =>
    ({ id: name, name, state, reason: 'It refuses.', since: 5, nextStep: null }) as never;
  const page = (name: string, connection_: string | null, lastError: string, state = 'failing') =>
    ({ name, connection: connection_, state, lastError, since: 7 }) as never;
  it('are told once for each cause, and of a blind cluster only that it is blind', () => {
    const subjects = [
      ...silentSubjects(
        [connection('seaward', 'blind'), connection('landward', 'reading')],
        [
          page('n1', 'seaward', 'refused'),
          page('n2', 'landward', 'refused'),
          page('n3', 'landward', 'refused'),
          page('n4', 'landward', 'it hangs'),
          page('n5', 'landward', '', 'read'),
          page('lamp', null, 'refused'),
        ],
      ),
    ];
    expect(subjects.map(({ name }) => name)).toEqual(['seaward', 'landward › n2 and 1 more', 'landward › n4', 'lamp']);
    expect(new Set(subjects.map(({ key }) => key)).size).toBe(4);
    // what pages say is for those who see everything
    expect(subjects.map(({ path }) => path.is)).toEqual(['cluster', 'everything', 'everything', 'everything']);
    expect(subjects.map((subject) => subject.verdicts(0).critical.is)).toEqual(['holds', 'breaks', 'breaks', 'breaks']);
    expect(subjects[0]!.facts(65_000, 5000)).toMatchObject({
      title: 'Nothing comes from seaward',
      value: 'silent for 60 s',
    });
  });
});

describe('a selector', () => {
  const { applies: all } = RuleDocument.parse({ name: 'x', when: { is: 'not read' }, levels: { critical: {} } });
  const path: ObjectPath = { is: 'namespace', cluster: 'seaward', namespace: 'tides' };
  const known = {
    team: () => 'tides',
    traits: () => ({ labels: { tier: 'gold' }, criticality: 'critical' as const }),
    environment: () => 'production',
  };
  it('leaves in what fits all that it names', () => {
    expect([selectsAll(all), selects(all, path, known)]).toEqual([true, true]);
    const fits = (part: Partial<typeof all>, at: ObjectPath = path) => selects({ ...all, ...part }, at, known);
    expect([fits({ clusters: ['seaward'] }), fits({ clusters: ['landward'] })]).toEqual([true, false]);
    expect([fits({ namespaces: ['tides', 'x'] }), fits({ namespaces: ['x'] })]).toEqual([true, false]);
    expect([fits({ teams: ['tides'] }), fits({ teams: ['ferries'] })]).toEqual([true, false]);
    expect([fits({ labels: { tier: 'gold' } }), fits({ labels: { tier: 'tin' } })]).toEqual([true, false]);
    expect([fits({ criticality: ['critical'] }), fits({ criticality: ['trial'] })]).toEqual([true, false]);
    expect(fits({ clusters: ['seaward'], labels: { tier: 'tin' } })).toBe(false);
    expect([fits({ environments: ['production'] }), fits({ environments: ['trial'] })]).toEqual([true, false]);
    expect([fits({ kinds: ['namespace'] }), fits({ kinds: ['node', 'pod'] })]).toEqual([true, false]);
    expect([fits({ names: ['t*s'] }), fits({ names: ['tide', '*x*'] })]).toEqual([true, false]);
    // what stands in no cluster is in none of those that are named
    expect([fits({ clusters: ['seaward'] }, EVERYTHING), fits({}, EVERYTHING)]).toEqual([false, true]);
  });
  it('is shown with nothing that its reader does not see, whatever it names', () => {
    const word = fc.constantFrom('seaward', 'landward', 'tides', 'customs', 'ferries');
    const words = fc.uniqueArray(word);
    const permit = fc.record({
      level: fc.constantFrom('read' as const, 'operate' as const, 'administer' as const),
      cluster: word,
      namespace: word,
      why: fc.constant('owns it'),
      own: fc.boolean(),
    });
    const selector = fc.record({
      clusters: words,
      namespaces: words,
      teams: words,
      labels: fc.dictionary(word, word),
      criticality: fc.constant(all.criticality),
      environments: words,
      kinds: fc.constant(all.kinds),
      names: words,
    });
    fc.assert(
      fc.property(selector, fc.array(permit, { maxLength: 3 }), (named, permits) => {
        const reach = Reach.of(permits);
        const shown = selectorSeen(named, reach);
        expect(shown.clusters).toEqual(named.clusters.filter((one) => permits.some(({ cluster }) => cluster === one)));
        expect(shown.namespaces).toEqual(
          named.namespaces.filter((one) => permits.some(({ namespace }) => namespace === one)),
        );
        expect([shown.teams, shown.labels, shown.names]).toEqual([[], {}, []]);
        expect(selectorSeen(shown, reach)).toEqual(shown);
      }),
    );
  });
});
