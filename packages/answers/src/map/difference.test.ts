import type { MapAnswer, MapLink } from '@zetopsis/contract';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { changeOf, mapDifference } from './difference.ts';

const of = (rate: number, failureShare: number | null = 0, p95: number | null = 0.1) => ({ rate, failureShare, p95 });
const link = (key: string, sent: number, more: Partial<MapLink> = {}): MapLink => ({
  key,
  from: `a/q/${key[0]}`,
  to: `a/q/${key[1]}`,
  protocols: [],
  by: 'requests',
  bytes: null,
  connections: null,
  uncertainShare: null,
  state: null,
  blindSince: null,
  now: sent,
  usual: null,
  against: 'the time before',
  since: null,
  sent,
  received: sent,
  failureShare: 0,
  refusedShare: 0,
  callerP95: 0.1,
  answererP95: 0.1,
  ownShare: null,
  seenShare: null,
  isNew: false,
  course: [1],
  was: null,
  change: null,
  ...more,
});
const map = (at: number, ...links: MapLink[]): MapAnswer => ({
  at,
  comparedAt: null,
  links,
  boxes: [...new Set(links.flatMap(({ from, to }) => [from, to]))].map((key) => ({
    key,
    kind: 'workload',
    cluster: 'a',
    namespace: 'q',
    name: key.slice(4),
    keeps: '',
    team: null,
    path: null,
    severity: null,
    finding: null,
    besides: null,
    cpu: null,
    memory: null,
    holds: null,
  })),
  trouble: [],
  left: 0,
  nothing: null,
});

describe('what changed of a link', () => {
  it.each([
    ['new', of(1), null],
    ['new', of(1), of(0)],
    ['gone', of(0), of(1)],
    ['gone', null, of(1)],
    [null, null, null],
    [null, of(0), of(0)],
    ['fails more', of(9, 0.1), of(1, 0.01)],
    ['fails less', of(1, 0.01), of(1, 0.1)],
    ['slower', of(1, 0, 0.3), of(1)],
    ['quicker', of(1, 0, 0.05), of(1)],
    [null, of(1, 0, 0.006), of(1, 0, 0.002)],
    ['more', of(2), of(1)],
    ['less', of(0.4), of(1)],
    [null, of(0.05), of(0.02)],
    [null, of(1.1, 0.01, 0.12), of(1)],
  ] as const)('is “%s”', (change, now, then) => {
    expect(changeOf(now, then)).toBe(change);
  });
  it('is nothing against itself', () => {
    const some = fc.record({
      rate: fc.double({ min: 0, max: 1e6, noNaN: true }),
      failureShare: fc.option(fc.double({ min: 0, max: 1, noNaN: true })),
      p95: fc.option(fc.double({ min: 0, max: 100, noNaN: true })),
    });
    fc.assert(
      fc.property(some, (one) => {
        expect(changeOf(one, one)).toBeNull();
      }),
    );
  });
});
describe('two windows', () => {
  it('are one map: each link with what it was, those that are gone with their ends', () => {
    const told = mapDifference(
      map(200, link('ab', 2), link('bc', 1), link('cd', 1)),
      map(100, link('ab', 1), link('bc', 1), link('xy', 3, { state: 'slow', now: 4 }), link('yz', 0)),
    );
    expect(told.comparedAt).toBe(100);
    expect(told.links.map(({ key, change, was }) => [key, change, was?.rate ?? null])).toEqual([
      ['ab', 'more', 1],
      ['bc', null, 1],
      ['cd', 'new', null],
      ['xy', 'gone', 3],
    ]);
    // what it was then is no trouble now
    expect(told.links.find(({ key }) => key === 'xy')).toMatchObject({ state: null, sent: 0, course: [null] });
    expect(told.boxes.map(({ name }) => name).sort()).toEqual(['a', 'b', 'c', 'd', 'x', 'y']);
  });
  it('say that there is nothing only where there was nothing then either', () => {
    const none = { ...map(200), nothing: 'none' };
    expect(mapDifference(none, map(100, link('ab', 1))).nothing).toBeNull();
    expect(mapDifference(none, map(100)).nothing).toBe('none');
  });
});
