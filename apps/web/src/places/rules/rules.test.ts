import { type RuleAnswer, RuleDocument } from '@zetopsis/contract';
import { STARTER_RULES } from '@zetopsis/core/rules';
import { DAY, HOUR } from '@zetopsis/core/units';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { builtRule } from './builtRule.ts';
import { draftOf, draftOfStarter } from './draftOfRule.ts';
import { proposedFrom } from './proposal.ts';
import { perWeek, timelineOf } from './rehearsalModel.ts';
import { EMPTY_DRAFT, lowestOf, type RuleDraft, readBound, scaleOf, unreadBound, writeBound } from './ruleDraft.ts';
import { documentOf, problemWithin } from './ruleOfDraft.ts';
import { costWords, judgedWords, sentenceOf } from './ruleWords.ts';

const MEMORY = {
  when: { is: 'container memory' },
  levels: { warning: { bound: 0.9, holdsSeconds: 300 } },
  clears: { afterSeconds: 60 },
};

describe('a rule is a sentence', () => {
  const said = (document: object, more: Partial<RuleAnswer> = {}) =>
    sentenceOf(builtRule(document, more), new Map([['tides', 'Tides']]));
  it('of when, how long, whom and how gravely', () => {
    expect(said(MEMORY)).toBe(
      'When the memory of a container is above 90 % of its limit for 5 min, tell the owner (warning). Tell again when it has been over for 60 s.',
    );
    expect(
      said({
        ...MEMORY,
        tells: 'tides',
        levels: { warning: { bound: 0.8, readings: 3 }, critical: { bound: 0.9, holdsSeconds: 0 } },
        clears: { bound: 0.7 },
      }),
    ).toBe(
      'When the memory of a container is above 80 % of its limit in 3 readings in a row, tell Tides (warning); above 90 %: critical. Tell again when it has been back below 70 %.',
    );
  });
  it('that says whom it would tell while it is on trial, and whose team it is of', () => {
    expect(said({ ...MEMORY, state: 'on trial' })).toMatch(
      /tell the owner \(warning\).* On trial: nobody is told yet\.$/,
    );
    expect(said({ ...MEMORY, team: 'tides' }, { owner: 'Tides' })).toContain('tell Tides (warning)');
  });
  it('of every kind', () => {
    const level = { levels: { warning: { holdsSeconds: 60 }, critical: { holdsSeconds: 0 } } };
    expect(said({ ...level, when: { is: 'fewer ready' } })).toContain('; what is critical by itself: critical.');
    expect(said({ ...level, when: { is: 'finding', codes: ['imageNotPulled', 'evicted'] } })).toContain(
      'one of these is found: image not pulled, evicted, for 60 s',
    );
    expect(said({ ...level, when: { is: 'not read' } })).toContain('nothing comes from a cluster');
    const measure = {
      when: { is: 'measure', text: 'read x', compare: 'below' },
      levels: { critical: { bound: 2 ** 30 } },
    };
    expect(said(measure, { unit: 'bytes', shownAs: null })).toContain('its measure is below 1.00 GiB, tell');
  });
  it('beside which stands how far it was judged, or why not, and what that costs', () => {
    expect(judgedWords(builtRule(MEMORY), 65_000)).toBe('judged up to 60 s ago');
    expect(judgedWords(builtRule(MEMORY, { judgedAt: null }), 0)).toBe('not judged yet');
    expect(judgedWords(builtRule(MEMORY, { problem: 'too much' }), 0)).toBe('too much');
    expect(judgedWords(builtRule({ ...MEMORY, state: 'off' }), 0)).toBe('switched off');
    expect([null, 0.2, 12.4, 1240].map(costWords)).toEqual(['', '< 1 ms', '12 ms', '1.2 s']);
  });
});

describe('a draft', () => {
  const level = fc.record({
    bound: fc.integer({ min: 1, max: 90 }).map((percent) => percent / 100),
    holdsSeconds: fc.integer({ min: 0, max: 600_000 }),
    readings: fc.option(fc.integer({ min: 1, max: 100 })),
  });
  const documents = fc
    .record({
      warning: level,
      critical: fc.option(fc.integer({ min: 91, max: 99 })),
      clears: fc.option(fc.constant(0.005)),
      team: fc.option(fc.constant('tides')),
      state: fc.constantFrom('on', 'on trial', 'off'),
      labels: fc.dictionary(fc.constantFrom('tier', 'harbour.test/name'), fc.constantFrom('gold', 'a-b')),
      judgedSeconds: fc.option(fc.integer({ min: 10, max: 86_400 })),
    })
    .map(({ warning, critical, clears, labels, ...rest }) =>
      RuleDocument.parse({
        name: 'x',
        when: { is: 'container memory' },
        levels: {
          warning: warning.readings === null ? warning : { ...warning, holdsSeconds: 0 },
          critical: critical && { bound: critical / 100 },
        },
        clears: { bound: clears, afterSeconds: 90 },
        applies: { labels, clusters: ['seaward'], criticality: ['critical'] },
        ...rest,
      }),
    );
  it('of a rule says that rule again, whatever it is', () => {
    fc.assert(
      fc.property(documents, (document) => {
        expect(documentOf(draftOf(document))).toEqual({ document });
      }),
    );
  });
  const bounded = fc.constantFrom(
    { when: { is: 'unusual', text: 'read tide_level', side: 'above', days: 7 }, levels: { warning: { bound: 2 } } },
    {
      when: {
        is: 'unusual',
        text: 'read a',
        quiet: { from: '2026-11-30T02:00:00.000Z', to: '2026-11-30T04:00:00.000Z' },
      },
      levels: { warning: { bound: 2, holdsSeconds: 600 } },
    },
    { when: { is: 'running out', text: 'read a', reaches: '20GiB' }, levels: { warning: { bound: 3 } } },
    { when: { is: 'measure', text: 'read a', compare: 'above' }, levels: { warning: { bound: 1_610_612_736 } } },
    {
      when: { is: 'measure', text: 'use = read a\nlimit = read b\nshow use / limit as percent\n', compare: 'above' },
      levels: { warning: { bound: 2 } },
    },
  );
  const selector = fc.record({
    clusters: fc.subarray(['seaward', 'quay']),
    environments: fc.subarray(['open sea']),
    namespaces: fc.subarray(['tides', 'pier-data']),
    teams: fc.subarray(['tides']),
    labels: fc.dictionary(fc.constantFrom('tier', 'harbour.test/name'), fc.constantFrom('gold', 'a-b')),
    criticality: fc.subarray(['critical']),
    kinds: fc.subarray(['deployment', 'node']),
    names: fc.subarray(['booking-*', 'gauge-reader']),
  });
  it('of a rule of numbers keeps the other numbers of some, whatever these are chosen by, and those of teams', () => {
    const other = fc.record({
      applies: selector,
      warning: fc.constantFrom(3, 0.5),
      clears: fc.constantFrom(null, 0.1),
    });
    fc.assert(
      fc.property(
        bounded,
        selector,
        fc.array(other, { maxLength: 3 }),
        fc.option(fc.constantFrom(0.5, 1.5)),
        fc.constantFrom(null, '', 'bytes', 'seconds', 'cores'),
        (rule, applies, overrides, stricter, unit) => {
          const isTime = rule.when.is === 'running out';
          const read = RuleDocument.safeParse({
            name: 'x',
            ...rule,
            applies,
            // what runs out is raised below a time, in whole seconds, and clear above it
            overrides: overrides.map((own) => (isTime ? { ...own, warning: own.warning * 60, clears: null } : own)),
            stricter: stricter === null ? {} : { tides: { warning: stricter * (isTime ? 60 : 1), critical: null } },
            hours: { zone: 'UTC', days: ['Mon'], from: '08:00', to: '16:00' },
            links: [{ name: 'tide tables', address: 'https://charts.example/tides' }],
            title: '{object} is wet',
            runbook: '# Bail\n\n* out',
          });
          expect(read.error?.issues).toBeUndefined();
          const document = read.data!; // each of these is a rule
          expect(documentOf(draftOf(document, unit))).toEqual({ document });
        },
      ),
    );
  });
  it('of a measure takes numbers with their unit, and shows them so; of another unit it takes none', () => {
    const measure = { kind: 'measure' as const, text: 'read vital container.memory.working_set' };
    const bytes = { ...measure, unit: 'bytes' };
    expect(readBound(bytes, '200MiB')).toBe(209_715_200);
    expect(writeBound(bytes, 209_715_200)).toBe('200 MiB');
    expect(readBound({ ...measure, unit: null }, '1.5 h')).toBe(5400);
    expect(readBound(bytes, '1.5 h')).toBeUndefined();
    expect(unreadBound(bytes)).toBe('write a number of bytes such as 200 MiB');
    const share = { ...measure, text: 'use = read a\nlimit = read b\nshow use / limit as percent\n', unit: '' };
    expect([readBound(share, '85'), readBound(share, '85 %'), writeBound(share, 0.85)]).toEqual([0.85, 0.85, '85']);
    expect(readBound(share, '2 GiB')).toBeUndefined();
    expect(readBound({ ...measure, kind: 'unusual', unit: null }, '2 GiB')).toBeUndefined();
  });
  it('of a rule of what happens keeps what it is set to', () => {
    const whens = [
      { is: 'fewer ready' },
      { is: 'not read' },
      { is: 'itself' },
      { is: 'finding', codes: ['imageNotPulled'] },
      { is: 'measure', text: 'read a', compare: 'missing' },
      { is: 'cluster event', reasons: ['FailedMount'], standsSeconds: 600 },
      { is: 'object change', changes: ['created', 'removed'], kinds: ['service'], standsSeconds: 7200 },
      { is: 'expected', kinds: ['deployment'], names: ['lantern-*'], least: 1, most: null, extra: true },
    ];
    for (const when of whens) {
      const document = RuleDocument.parse({ name: 'x', when, levels: { warning: {}, critical: { readings: 3 } } });
      expect(documentOf(draftOf(document))).toEqual({ document });
    }
  });
  const draft = (part: Partial<RuleDraft>): RuleDraft => ({
    ...EMPTY_DRAFT,
    name: 'x',
    kind: 'container memory',
    levels: { ...EMPTY_DRAFT.levels, warning: { on: true, bound: '90 %', low: '', holds: '3 readings' } },
    ...part,
  });
  it('is read as people write: percent with its sign or a comma, times as they are said', () => {
    expect(documentOf(draft({}))).toMatchObject({ document: { levels: { warning: { bound: 0.9, readings: 3 } } } });
    const read = documentOf(
      draft({ levels: { ...EMPTY_DRAFT.levels, warning: { on: true, bound: '87,5', low: '', holds: '1 h 30 min' } } }),
    );
    expect(read).toMatchObject({ document: { levels: { warning: { bound: 0.875, holdsSeconds: 5400 } } } });
  });
  it('says what is wrong at each field, and loses nothing', () => {
    const read = documentOf(
      draft({
        name: ' ',
        levels: {
          warning: { on: true, bound: 'much', low: '', holds: 'a while' },
          critical: EMPTY_DRAFT.levels.critical,
        },
        labels: 'tier',
        namespaces: 'Not Good',
      }),
    );
    if (!('problems' in read)) throw new Error('it should be refused');
    const { problems } = read;
    expect(problems.get('name')).toBe('a rule has a name');
    expect(problems.get('levels.warning.bound')).toBe('this is not a number');
    expect(problems.get('levels.warning.holdsSeconds')).toMatch(/^write such as/);
    expect(problemWithin(problems, 'applies')).toBeDefined();
  });
  it('writes numbers of a measure in percent where it shows percent', () => {
    const text = 'use = read a\nlimit = read b\nshow use / limit as percent\n';
    expect(scaleOf({ kind: 'measure', text })).toBe(100);
    expect(scaleOf({ kind: 'measure', text: 'read a\n' })).toBe(1);
    expect(scaleOf({ kind: 'measure', text: 'raed' })).toBe(1);
    expect(lowestOf(draft({}))).toBe('warning');
  });
});

describe('a number to begin with', () => {
  const curve = [
    { bound: 0.5, raised: 90, raisedMinutes: 1, missed: 0 },
    { bound: 0.7, raised: 3, raisedMinutes: 1, missed: 0 },
    { bound: 0.9, raised: 1, raisedMinutes: 1, missed: 0 },
    { bound: 0.95, raised: 0, raisedMinutes: 0, missed: 0 },
  ];
  it('is the nearest that raises at most one alert a week, on the side on which it holds', () => {
    expect(proposedFrom({ curve, from: 0, to: DAY }, 'above')).toBe(0.9);
    expect(proposedFrom({ curve, from: 0, to: 21 * DAY }, 'above')).toBe(0.7);
    const falling = curve.map((point, i) => ({ ...point, raised: curve[3 - i]!.raised }));
    expect(proposedFrom({ curve: falling, from: 0, to: DAY }, 'below')).toBe(0.7);
    expect(proposedFrom({ curve: [], from: 0, to: DAY }, 'above')).toBeNull();
    // nothing was raised at all: too little is known
    const young = [
      { bound: 0, raised: 0, raisedMinutes: 0, missed: 0 },
      ...curve.map((point) => ({ ...point, raised: 0 })),
    ];
    expect([
      proposedFrom({ curve: young, from: 0, to: DAY }, 'above'),
      proposedFrom({ curve: young, from: 0, to: DAY }, 'below'),
    ]).toEqual([0.95, 0.5]);
  });
  it('stands in every rule that one may begin with, which is on trial first', () => {
    for (const starter of STARTER_RULES) {
      const read = documentOf(draftOfStarter(starter, { team: '' }));
      expect([starter.title, 'document' in read && read.document.state]).toEqual([starter.title, 'on trial']);
    }
  });
});

describe('what a rehearsal shows', () => {
  it('is said by the week', () => {
    expect([perWeek(0, DAY), perWeek(1, 21 * DAY), perWeek(3, 2 * DAY), perWeek(40, DAY)]).toEqual([
      'no',
      '< 1',
      '11',
      '280',
    ]);
  });
  it('stands in a row for each object, the longest first', () => {
    const one = (name: string, raisedAt: number, endedAt: number | null) => ({
      name,
      path: ['seaward'],
      team: null,
      severity: 'warning' as const,
      since: raisedAt,
      raisedAt,
      endedAt,
      most: '',
    });
    const rows = timelineOf({
      from: 0,
      to: 10 * HOUR,
      raised: [one('a', HOUR, 2 * HOUR), one('b', 5 * HOUR, null), one('a', 3 * HOUR, 4 * HOUR)],
    });
    expect(rows.map(({ name, bars }) => [name, bars.map(({ left, width }) => [left, width])])).toEqual([
      ['b', [[50, 50]]],
      [
        'a',
        [
          [10, 10],
          [30, 10],
        ],
      ],
    ]);
  });
});
