import type { AlertAnswer, NowAnswer } from '@zetopsis/contract';
import { describe, expect, it } from 'vitest';
import { toldWords } from '../../drawing/told.ts';
import { asFailure, failureOf } from '../../state/failure.ts';
import { connectionWords, endpointWords, testVerdict, trimmedWords } from '../sources/sourcesModel.ts';
import { failingWithoutAlert, sortAlerts } from './nowModel.ts';

const alert = (part: Partial<AlertAnswer>): AlertAnswer => ({
  id: 1,
  rule: 'r',
  ruleKey: 'r',
  trial: false,
  hushed: null,
  taken: null,
  mayTake: true,
  severity: 'warning',
  title: 't',
  path: ['c', 'n', 'deployment:w', 'p'],
  team: 'Tides',
  since: 0,
  raisedAt: 0,
  endedAt: null,
  endedHow: null,
  unseenSince: null,
  easingSince: null,
  value: '',
  limit: '',
  reason: '',
  evidence: '',
  changed: null,
  nextStep: '',
  told: [],
  ...part,
});

describe('Now', () => {
  it('leads with the gravest, then the newest', () => {
    const sorted = sortAlerts([
      alert({ id: 1, raisedAt: 9 }),
      alert({ id: 2, severity: 'critical', raisedAt: 1 }),
      alert({ id: 3, severity: 'critical', raisedAt: 5 }),
    ]);
    expect(sorted.map(({ id }) => id)).toEqual([3, 2, 1]);
  });
  it('tells one cause once', () => {
    const finding = { code: 'x', severity: 'critical' as const, reason: '', evidence: '', since: null, nextStep: '' };
    const failing = [
      ['c', 'n', 'deployment:w'],
      ['c', 'n', 'deployment:other'],
    ].map((path) => ({ path, team: null, finding, more: 0 }));
    expect(
      failingWithoutAlert({ alerts: [alert({})], failing } as unknown as NowAnswer).map(({ path }) => path[2]),
    ).toEqual(['deployment:other']);
  });
  it('says who was told, who could not be, and that nobody was', () => {
    expect(toldWords(alert({ team: null }))).toMatch(/^nobody was told: its namespace has no owner/);
    expect(toldWords(alert({ hushed: 'spring tide' }))).toBe('kept quiet: spring tide');
    expect(toldWords(alert({ team: null, told: [{ to: 'a@b.test', state: 'sent', at: 1, error: null }] }))).toBe(
      'told a@b.test',
    );
    expect(toldWords(alert({ told: [{ to: 'a@b.test', state: 'dead', at: null, error: 'no' }] }))).toBe(
      'could not tell a@b.test: no',
    );
    expect(toldWords(alert({ told: [{ to: 'a@b.test', state: 'waiting', at: null, error: 'later' }] }))).toBe(
      'not told yet: later',
    );
  });
});

describe('Sources', () => {
  const endpoint = {
    id: 1,
    connection: 'c',
    name: 'n',
    kind: 'node' as const,
    scout: null,
    group: '',
    address: 'a',
    intervalSeconds: 15,
    state: 'failing' as const,
    since: 0,
    lastReadingAt: null,
    samples: null,
    bytes: null,
    durationMs: null,
    problems: 0,
    cut: null,
    lastError: 'It hangs.',
    lastErrorAt: 0,
    nextDueAt: 70_000,
  };
  it('say what is wrong, since when and what comes next; nothing where all is well', () => {
    expect(endpointWords(endpoint, 60_000)).toBe('It hangs. Failing for 60 s; next try in 10 s.');
    expect(endpointWords({ ...endpoint, state: 'read', lastErrorAt: null }, 60_000)).toBeNull();
    expect(endpointWords({ ...endpoint, state: 'read', lastErrorAt: 0 }, 60_000)).toBe('failed 60 s ago: It hangs.');
    expect(
      connectionWords({ state: 'blind', since: 0, lastContactAt: 0 } as Parameters<typeof connectionWords>[0], 120_000),
    ).toBe('for 2 min, last heard of 2 min ago');
  });
  it('say what a test found', () => {
    const kind = { kind: 'pod', may: 'read' as const, count: 1, why: null };
    const test = {
      reached: true,
      problem: null,
      clusterVersion: 'v1',
      kinds: [kind],
      nodePage: { ok: true, text: '' },
      trimmed: [],
      durationMs: 1,
    };
    expect(testVerdict(test)).toBe('Everything Zetopsis reads may be read.');
    expect(testVerdict({ ...test, kinds: [kind, { ...kind, may: 'not allowed' }] })).toMatch(/in part/);
    expect(testVerdict({ ...test, kinds: [{ ...kind, may: 'failed' }] })).toMatch(/Nothing may be read/);
    expect(testVerdict({ ...test, reached: false })).toBe('It cannot be read.');
    expect(trimmedWords(['address', 'token'])).toBe('Blanks around or inside the address and the token were left out.');
    expect(trimmedWords([])).toBeNull();
  });
});

it('failures are told apart up to the view', () => {
  const body = { code: 'invalid', text: 'no', fields: [{ path: 'name', text: 'bad' }] };
  expect(failureOf(400, body)).toMatchObject({ kind: 'invalid', text: 'no', fields: [{ path: 'name' }] });
  expect([401, 403, 404, 500, 502].map((status) => failureOf(status, body).kind)).toEqual([
    'notSignedIn',
    'notAllowed',
    'gone',
    'refused',
    'offline',
  ]);
  expect(failureOf('FETCH_ERROR', undefined).kind).toBe('offline');
  expect(failureOf(500, '<html>').text).toBe('The server answered 500.');
  expect(asFailure(new TypeError('x')).kind).toBe('refused');
});
