import { describe, expect, it } from 'vitest';
import {
  AgainstQuery,
  ConnectionChange,
  ConnectionInput,
  FirstPerson,
  RuleDocument,
  readScope,
  readTrait,
  ScopeQuery,
  SignIn,
  TeamDocument,
  trimmedBlanks,
  WindowQuery,
  writeQuery,
  writeScope,
} from './index.ts';

const PEM = '-----BEGIN CERTIFICATE-----\nabc\n-----END CERTIFICATE-----';
const problems = (
  schema: {
    safeParse(value: unknown): { success: boolean; error?: { issues: { path: PropertyKey[]; message: string }[] } };
  },
  value: unknown,
) => schema.safeParse(value).error?.issues.map(({ path, message }) => `${path.join('.')}: ${message}`) ?? [];

describe('a connection', () => {
  const good = { name: 'seaward', address: 'https://10.0.0.1:6443', token: 'abc', authority: PEM };
  it('is trimmed, with sensible values where nothing is said', () => {
    expect(
      ConnectionInput.parse({
        ...good,
        name: ' seaward ',
        address: ' https://10.0.0.1:6443\n',
        token: ' a\n b c ',
        authority: `\n${PEM}\n`,
      }),
    ).toEqual({
      ...good,
      environment: '',
      region: '',
      flavour: '',
      nodePage: { path: '/metrics', intervalSeconds: 15 },
    });
    expect(ConnectionInput.parse({ name: 'x', address: 'https://h', token: 't' }).authority).toBe('');
  });
  it.each([
    [{ name: 'Big Name' }, 'name: a name is 1 to 40 small letters, digits and dashes'],
    [{ address: 'h:6443' }, 'address: a cluster is read over https'],
    [{ address: 'nonsense' }, 'address: this is no address; write https://host:port'],
    [{ address: 'http://h' }, 'address: a cluster is read over https'],
    [
      { address: 'https://user:pass@h' },
      'address: leave name and password out of the address; the token proves who asks',
    ],
    [{ token: ' \n ' }, 'token: the token is missing'],
    [
      { authority: 'abc' },
      'authority: a certificate authority starts with -----BEGIN CERTIFICATE----- and ends with -----END CERTIFICATE-----',
    ],
    [{ nodePage: { path: 'metrics', intervalSeconds: 15 } }, 'nodePage.path: a path starts with /'],
    [{ nodePage: { path: '/m', intervalSeconds: 0 } }, 'nodePage.intervalSeconds: at least 1 s'],
    [{ nodePage: { path: '/m', intervalSeconds: 4000 } }, 'nodePage.intervalSeconds: at most 1 h'],
  ])('with %j says: %s', (change, problem) => {
    expect(problems(ConnectionInput, { ...good, ...change })).toContain(problem);
  });
  it('may be changed without giving the token again', () => {
    expect(ConnectionChange.parse({ ...good, token: '' }).token).toBe('');
  });
  it('tells which fields held blanks', () => {
    expect(trimmedBlanks(good)).toEqual([]);
    expect(trimmedBlanks({ name: 'a ', address: ' b', token: 'c\nd', authority: ` ${PEM}` })).toEqual([
      'name',
      'address',
      'token',
      'authority',
    ]);
    expect(trimmedBlanks({ authority: `${PEM}\n`, name: 5 })).toEqual([]);
  });
});

describe('scope and window in an address', () => {
  it('come back as they were, and are read as far as they can be', () => {
    const path = ['seaward', 'a/b', 'deployment:x y', '100%', 'é#?&'];
    expect(readScope(writeScope(path))).toEqual(path);
    expect(writeScope(['seaward', 'tides', 'deployment:tide-model'])).toBe('seaward/tides/deployment:tide-model');
    expect(readScope('//seaward//%zz/')).toEqual(['seaward', '%zz']);
    expect(ScopeQuery.parse({}).in).toEqual({ is: 'everything' });
    expect(problems(ScopeQuery, { in: 'a/b/c/d/e/f' })).toHaveLength(1);
  });
  it('leave out what is not there and encode what must be', () => {
    expect(writeQuery({ in: 'a/b:c', from: 5, to: undefined, of: '' })).toBe('in=a/b:c&from=5');
    expect(new URLSearchParams(writeQuery({ in: writeScope(['a&b=c#d']) })).get('in')).toBe(writeScope(['a&b=c#d']));
  });
  it('refuse windows that end before they begin or are too long', () => {
    expect(WindowQuery.parse({ from: '5', to: '10' })).toEqual({ from: 5, to: 10 });
    expect(problems(WindowQuery, { from: 10, to: 5 })).toEqual(['to: the window ends before it begins']);
    expect(problems(WindowQuery, { from: 0, to: 100 * 86_400_000 })).toEqual([
      'from: the window is longer than 92 days',
    ]);
    expect(problems(WindowQuery, { from: 'x' })).toHaveLength(1);
  });
});

describe('people, rules and teams', () => {
  it('names are small letters, passwords long enough', () => {
    expect(SignIn.parse({ name: ' Maren ', password: 'x' }).name).toBe('maren');
    expect(FirstPerson.parse({ code: 'c', name: 'Maren', password: 'long enough' }).name).toBe('maren');
    expect(problems(FirstPerson, { code: ' ', name: '1x', password: 'short' })).toHaveLength(3);
  });
  it('thresholds and times of a rule stay within reason, and go together', () => {
    const good = {
      name: 'memory near its limit',
      when: { is: 'container memory' },
      levels: { warning: { bound: '0.8', holdsSeconds: '300' }, critical: { bound: 0.9 } },
    };
    expect(RuleDocument.parse(good)).toMatchObject({
      state: 'on',
      team: null,
      levels: { warning: { bound: 0.8, holdsSeconds: 300, readings: null }, critical: { holdsSeconds: 0 } },
      clears: { bound: null, afterSeconds: 0 },
      applies: { clusters: [], labels: {} },
    });
    const wrong = (part: object) => problems(RuleDocument, { ...good, ...part });
    expect(wrong({ levels: {} })).toEqual(['levels: a rule has a level: warning, critical or both']);
    expect(wrong({ levels: { warning: { bound: 0.9 }, critical: { bound: 0.8 } } })).toEqual([
      'levels.critical.bound: critical begins above where warning does',
    ]);
    expect(wrong({ levels: { warning: { bound: 0, holdsSeconds: -1 } } })).toHaveLength(2);
    expect(wrong({ clears: { bound: 0.85 } })).toEqual(['clears.bound: it clears at or below where it is raised']);
    expect(wrong({ when: { is: 'finding' } })).toHaveLength(2);
    expect(wrong({ when: { is: 'measure', text: 'raed x' } })).toEqual([
      expect.stringMatching(/^when.text: line 1, column 1: .*“read”/),
    ]);
    const below = {
      when: { is: 'measure', text: 'read x', compare: 'below' },
      levels: { warning: { bound: 5 }, critical: { bound: 1 } },
    };
    expect(wrong(below)).toEqual([]);
    expect(wrong({ ...below, when: { ...below.when, compare: 'missing' } })).toHaveLength(2);
  });
  it('a rule of before there were levels is read as what it was', () => {
    const before = {
      name: 'x',
      enabled: true,
      severity: 'critical',
      holdsSeconds: 600,
      easesSeconds: 120,
      above: null,
    };
    expect(RuleDocument.parse(before)).toMatchObject({
      when: { is: 'fewer ready' },
      levels: { warning: { holdsSeconds: 600 }, critical: { holdsSeconds: 600 } },
      clears: { afterSeconds: 120 },
    });
    expect(RuleDocument.parse({ ...before, enabled: false, severity: 'warning', above: 0.9 })).toMatchObject({
      state: 'off',
      when: { is: 'container memory' },
      levels: { warning: { bound: 0.9 }, critical: null },
    });
    expect(RuleDocument.parse({ ...before, above: 0.9 }).levels.warning).toBeNull();
    const now = RuleDocument.parse(before);
    expect(RuleDocument.parse(now)).toEqual(now);
    expect(problems(RuleDocument, { ...before, enabled: true, colour: 'red' })).toHaveLength(1);
  });
  it('a team has a name, an address and says what is its own', () => {
    const owns = [{ by: 'name', namespace: 'tides' }];
    expect(TeamDocument.parse({ name: ' Tides ', email: ' t@x.test ', owns })).toEqual({
      name: 'Tides',
      email: 't@x.test',
      members: [],
      owns: [{ by: 'name', cluster: null, namespace: 'tides' }],
    });
    expect(
      problems(TeamDocument, { name: '', email: 'nobody', owns: [{ by: 'name', namespace: 'Not Good' }] }),
    ).toHaveLength(3);
    expect(problems(TeamDocument, { name: 'x', email: 'a@b.test\r\nBcc: c@d.test' })).toEqual([
      'email: this is no email address',
    ]);
  });
});

describe('where and when is looked', () => {
  it('a trait of clusters names one of three, and what it is', () => {
    expect(readTrait('environment:production')).toEqual({ trait: 'environment', is: 'production' });
    expect(readTrait('region:north:west')).toEqual({ trait: 'region', is: 'north:west' });
    expect(readTrait('owner:me')).toBeNull();
    expect(problems(ScopeQuery, { in: '', clusters: 'owner:me' })).toHaveLength(1);
  });
  it('a window is compared with an earlier or later one, never with itself', () => {
    expect(AgainstQuery.parse({ shift: '86400000' })).toEqual({ shift: 86_400_000 });
    expect(AgainstQuery.parse({})).toEqual({});
    expect(problems(AgainstQuery, { shift: '0' })).toEqual(['shift: a window is not compared with itself']);
    expect(problems(AgainstQuery, { shift: 'yesterday' })).toHaveLength(1);
  });
});
