import { type DocumentKind, type DocumentOf, RuleDocument } from '@zetopsis/contract';
import { describe, expect, it } from 'vitest';
import { readFile, writeFile } from './configurationFile.ts';
import { differenceOf } from './differences.ts';
import { Documents } from './documents.ts';

const TEAM: DocumentOf['team'] = {
  name: 'Ferries',
  email: 'ferries@skerrivale.test',
  members: ['tove'],
  owns: [{ by: 'name', cluster: null, namespace: 'ticketing' }],
};
const RULE: DocumentOf['rule'] = RuleDocument.parse({
  name: 'fewer ready than desired',
  when: { is: 'fewer ready' },
  levels: { warning: { holdsSeconds: 600 } },
});
const NOW = Documents.of([
  { kind: 'team', key: 'ferries', body: TEAM },
  { kind: 'rule', key: 'readyPods', body: RULE },
]);

const keysNow = (kind: DocumentKind) => NOW.all(kind).keys();

describe('a configuration file', () => {
  it('written out and read back wishes nothing new, in both forms', () => {
    for (const form of ['yaml', 'json'] as const) {
      const { wishes, problems } = readFile(writeFile(NOW, form), keysNow);
      expect(problems).toEqual([]);
      expect(wishes).toHaveLength(2);
      for (const { kind, key, after } of wishes) expect(after).toEqual(NOW.get(kind, key));
    }
  });

  it('a key that is missing from a section that stands there is removed; a missing section is left alone', () => {
    const { wishes, problems } = readFile('zetopsis: 1\nteams: {}\n', keysNow);
    expect(problems).toEqual([]);
    expect(wishes).toEqual([{ kind: 'team', key: 'ferries', after: null }]);
  });

  it('names the line of every problem', () => {
    const text = [
      'zetopsis: 1',
      'teams:',
      '  ferries:',
      '    name: Ferries',
      '    email: nowhere',
      '    owns:',
      '      - by: name',
      '        namespace: NOT GOOD',
      '    colour: blue',
      'wishes: {}',
      '',
    ].join('\n');
    const { wishes, problems } = readFile(text, keysNow);
    expect(wishes).toEqual([]);
    expect(problems.map(({ line, path }) => [line, path])).toEqual([
      [10, 'wishes'],
      [5, 'teams.ferries.email'],
      [8, 'teams.ferries.owns.0.namespace'],
      [9, 'teams.ferries.colour'],
    ]);
  });

  it('says where it is neither YAML nor JSON, which form is missing, and that a key stands twice', () => {
    expect(readFile('teams: [', keysNow).problems[0]).toMatchObject({
      line: 1,
      text: expect.stringContaining('neither YAML'),
    });
    expect(readFile('teams: {}', keysNow).problems[0]?.text).toContain('zetopsis: 1');
    expect(readFile('just words', keysNow).problems[0]?.text).toContain('map of sections');
    expect(readFile('zetopsis: 1\nteams: {}\nteams: {}\n', keysNow).problems[0]).toMatchObject({ line: 3 });
    expect(readFile('{"zetopsis": 1, "teams": [1]}', keysNow).problems[0]).toMatchObject({ line: 1, path: 'teams' });
  });

  it('refuses a file that unfolds beyond measure', () => {
    const bomb = ['zetopsis: 1', 'a: &a [x,x,x,x,x,x,x,x,x]'];
    for (let i = 1; i < 9; i++)
      bomb.push(`${'abcdefghij'[i]}: &${'abcdefghij'[i]} [${`*${'abcdefghij'[i - 1]},`.repeat(9)}]`);
    expect(readFile(bomb.join('\n'), keysNow).problems[0]?.text).toContain('refers to itself too often');
  });
});

describe('a difference', () => {
  it('shows what was taken and what was put, line by line', () => {
    const after = { ...TEAM, email: 'crew@skerrivale.test' };
    const { was, lines } = differenceOf({ kind: 'team', key: 'ferries', before: TEAM, after });
    expect(was).toBe('changed');
    expect(lines.filter(({ is }) => is !== 'same')).toEqual([
      { is: 'removed', text: 'email: ferries@skerrivale.test' },
      { is: 'added', text: 'email: crew@skerrivale.test' },
    ]);
  });
  it('warns where more goes than the document', () => {
    const cluster = { address: 'https://x.test', authority: '' } as DocumentOf['cluster']; // only what is looked at
    expect(differenceOf({ kind: 'cluster', key: 'x', before: cluster, after: null }).warning).toContain(
      'does not come back',
    );
    expect(differenceOf({ kind: 'cluster', key: 'x', before: null, after: cluster }).warning).toContain('token');
    expect(differenceOf({ kind: 'team', key: 'x', before: TEAM, after: null }).warning).toBeNull();
  });
  it('of ten thousand documents is read in the time of its length', () => {
    const team = (i: number) =>
      `  tides-${i}:\n    name: Tides ${i}\n    email: tides@skerrivale.test\n    members: []\n    owns: []\n`;
    const text = (count: number) => `zetopsis: 1\nteams:\n${Array.from({ length: count }, (_, i) => team(i)).join('')}`;
    const { wishes, problems } = readFile(text(10_000), () => []);
    expect([wishes.length, problems.length]).toEqual([10_000, 0]);
    const twice = readFile(`${text(10_000)}${team(7)}`, () => []).problems;
    expect(twice).toMatchObject([{ line: 2 + 50_000 + 1, text: 'tides-7 stands here twice' }]);
  });
  it('whose keys are maps in maps is refused, not written out', () => {
    for (const text of [
      `zetopsis: 1\n${'? '.repeat(3000)}`,
      'zetopsis: 1\n? [a, b]\n: 1\n',
      'zetopsis: 1\n? {a: {b: 1}}\n: 1\n',
    ])
      expect(readFile(text, () => []).problems.length).toBeGreaterThan(0);
  });
});
