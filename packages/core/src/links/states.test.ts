import { describe, expect, it } from 'vitest';
import type { LinkEnd } from './link.ts';
import { causeOf, type JudgedLink, troubleOf } from './side.ts';
import { judgeLink, type LinkCourse, type LinkState, type LinkUsual } from './states.ts';

const AT = 1_790_000_040_000;
const MINUTE = 60_000;
const NO_USUAL: LinkUsual = { requests: null, failureShare: null, refusedShare: null, p95: null };
const filled = (length: number, value: (fromEnd: number) => number) =>
  Float64Array.from({ length }, (_, i) => value(length - 1 - i));
/** An even link, but for what is said; by minutes before the end. */
const course = (own: {
  requests?: (ago: number) => number;
  failures?: (ago: number) => number;
  refused?: (ago: number) => number;
  p95?: (ago: number) => number;
}): LinkCourse => ({
  requests: filled(66, own.requests ?? (() => 30)),
  failures: filled(66, own.failures ?? (() => 0)),
  refused: filled(66, own.refused ?? (() => 0)),
  p95: filled(13, own.p95 ?? (() => 0.02)),
});
const state = (of: LinkCourse, usual = NO_USUAL) => judgeLink(of, usual, AT).state;

describe('the state of a link', () => {
  it.each<[string, LinkState | null, Parameters<typeof course>[0]]>([
    ['even', null, {}],
    ['refused', 'refused', { refused: (ago) => (ago < 15 ? 12 : 0), failures: (ago) => (ago < 15 ? 12 : 0) }],
    ['silent', 'silent', { requests: (ago) => (ago < 30 ? 0 : 30) }],
    ['not silent yet', null, { requests: (ago) => (ago < 9 ? 0 : 30) }],
    ['failing', 'failing', { failures: (ago) => (ago < 12 ? 6 : 0) }],
    ['few failures', null, { failures: (ago) => (ago < 3 ? 1 : 0) }],
    ['slow', 'slow', { p95: (ago) => (ago < 4 ? 0.4 : 0.02) }],
    ['slower by a hair', null, { p95: (ago) => (ago < 4 ? 0.05 : 0.02) }],
    ['flooded', 'flooded', { requests: (ago) => (ago < 12 ? 160 : 30) }],
    [
      'flooded by tries after failures',
      'failing',
      { requests: (ago) => (ago < 12 ? 160 : 30), failures: (ago) => (ago < 12 ? 140 : 0) },
    ],
    ['quiet, as ever', null, { requests: (ago) => (ago % 20 === 0 ? 1 : 0) }],
    ['pauses as long as often', null, { requests: (ago) => (ago % 14 > 11 ? 30 : 0) }],
    ['not read', null, { requests: () => Number.NaN }],
    ['not read any more', null, { requests: (ago) => (ago < 30 ? Number.NaN : 30) }],
  ])('%s: %s', (_, expected, own) => {
    expect(state(course(own))).toBe(expected);
  });
  it('has one date, whatever a minute in between or the last one was like', () => {
    for (const odd of [0, 1, 6, 11]) {
      const flooded = course({ requests: (ago) => (ago === odd ? 31 : ago < 20 ? 240 : 30) });
      expect(judgeLink(flooded, NO_USUAL, AT)).toMatchObject({ state: 'flooded', since: AT - 20 * MINUTE });
      const failing = course({ failures: (ago) => (ago !== odd && ago < 20 ? 9 : 0) });
      expect(judgeLink(failing, NO_USUAL, AT)).toMatchObject({ state: 'failing', since: AT - 20 * MINUTE });
    }
    // five of them end it
    const again = course({ failures: (ago) => (ago < 12 || (ago >= 17 && ago < 30) ? 9 : 0) });
    expect(judgeLink(again, NO_USUAL, AT).since).toBe(AT - 12 * MINUTE);
  });
  it('needs two judgements in a row', () => {
    expect(state(course({ failures: (ago) => (ago < 1 ? 30 : 0) }))).toBeNull();
    expect(state(course({ failures: (ago) => (ago < 2 ? 30 : 0) }))).toBe('failing');
  });
  it('is against this hour of other days where that is known', () => {
    const flood = course({ requests: (ago) => (ago < 12 ? 160 : 30) });
    expect(judgeLink(flood, NO_USUAL, AT)).toMatchObject({ state: 'flooded', against: 'the time before', usual: 0.5 });
    expect(judgeLink(flood, { ...NO_USUAL, requests: 2.6 }, AT)).toMatchObject({ state: null, against: 'this hour' });
    const failing = course({ failures: (ago) => (ago < 12 ? 6 : 0) });
    expect(judgeLink(failing, { ...NO_USUAL, requests: 0.5, failureShare: 0.25 }, AT).state).toBeNull();
  });
  it('is told by bytes where nobody tells of requests', () => {
    const none = () => Number.NaN;
    const of = (bytes: (ago: number) => number, requests: (ago: number) => number = none) => ({
      ...course({ requests }),
      bytes: filled(66, bytes),
    });
    expect(
      judgeLink(
        of(() => 60e6),
        NO_USUAL,
        AT,
      ),
    ).toMatchObject({ state: null, by: 'bytes', now: 1e6 });
    expect(
      judgeLink(
        of((ago) => (ago < 30 ? 0 : 60e6)),
        NO_USUAL,
        AT,
      ),
    ).toMatchObject({
      state: 'silent',
      since: AT - 30 * MINUTE,
    });
    expect(
      judgeLink(
        of((ago) => (ago < 12 ? 400e6 : 60e6)),
        NO_USUAL,
        AT,
      ),
    ).toMatchObject({
      state: 'flooded',
      since: AT - 12 * MINUTE,
    });
    // six times of very little
    expect(
      judgeLink(
        of((ago) => (ago < 12 ? 600 : 100)),
        NO_USUAL,
        AT,
      ).state,
    ).toBeNull();
    // requests say more
    expect(
      judgeLink(
        of(
          (ago) => (ago < 12 ? 400e6 : 60e6),
          () => 30,
        ),
        NO_USUAL,
        AT,
      ),
    ).toMatchObject({
      state: null,
      by: 'requests',
    });
  });
  it('tells since when', () => {
    expect(judgeLink(course({ requests: (ago) => (ago < 35 ? 0 : 30) }), NO_USUAL, AT).since).toBe(AT - 35 * MINUTE);
    expect(judgeLink(course({ failures: (ago) => (ago < 12 ? 6 : 0) }), NO_USUAL, AT).since).toBe(AT - 12 * MINUTE);
    expect(judgeLink(course({ p95: (ago) => (ago < 4 ? 0.4 : 0.02) }), NO_USUAL, AT).since).toBe(AT - 20 * MINUTE);
    expect(judgeLink(course({ requests: (ago) => (ago < 12 ? 160 : 30) }), NO_USUAL, AT).since).toBe(AT - 12 * MINUTE);
  });
});

const end = (name: string): LinkEnd => ({ cluster: 'seaward', namespace: 'quay', workload: `deployment:${name}` });
const link = (from: string, to: string, is: LinkState | null, more: Partial<JudgedLink> = {}): JudgedLink => ({
  from: end(from),
  to: end(to),
  judgement: { state: is, now: is === null ? 1 : 3, usual: 1, against: 'this hour', by: 'requests', since: null },
  sent: 1,
  received: 1,
  callerP95: 0.1,
  answererP95: 0.1,
  ownShare: 1,
  carried: true,
  carries: is !== 'silent',
  ...more,
});
const cause = (links: readonly JudgedLink[]) => causeOf(links[0]!, links); // there is one

describe('the likely side', () => {
  it('is what lies behind where the answerer waits for another in trouble, to the end of the chain', () => {
    const links = [
      link('front', 'board', 'slow', { ownShare: 0.1 }),
      link('board', 'planner', 'slow'),
      link('planner', 'base', 'slow'),
      link('board', 'store', null),
    ];
    expect(cause(links)).toMatchObject({ side: 'behind', root: expect.stringMatching(/planner → .*base/) });
    expect(cause(links).evidence).toContain('90 % of its time it waits for others');
    const [entry, ...more] = troubleOf(links);
    expect(more).toEqual([]);
    expect(entry).toMatchObject({ cause: { side: 'answerer', root: null } });
    expect(entry?.inside).toHaveLength(2);
  });
  it('is the caller where it calls nobody any more, or sends more than others do', () => {
    expect(cause([link('a', 'b', 'silent'), link('a', 'c', 'silent'), link('d', 'b', null)])).toMatchObject({
      side: 'caller',
      evidence: ['all 2 links of the caller fell'],
    });
    expect(cause([link('a', 'b', 'flooded'), link('d', 'b', null)]).side).toBe('caller');
    expect(cause([link('a', 'b', 'silent'), link('a', 'c', null), link('d', 'b', null)]).evidence).toEqual([
      'the caller calls others as before',
      'the answerer answers others as before',
      'no attempts were sent',
    ]);
  });
  it('of a flood that is passed on is whoever sends it first', () => {
    const links = [link('b', 'c', 'flooded'), link('a', 'b', 'flooded'), link('o', 'a', 'flooded')];
    expect(cause(links)).toMatchObject({ side: 'caller', root: expect.stringMatching(/:o → .*:a$/) });
    expect(troubleOf(links)).toMatchObject([
      { link: expect.stringMatching(/:o → .*:a$/), inside: [expect.anything(), expect.anything()] },
    ]);
  });
  it('is between them where attempts do not arrive, or the answerer is as quick as ever', () => {
    expect(cause([link('a', 'b', 'failing', { sent: 10, received: 5 })]).side).toBe('between');
    expect(cause([link('a', 'b', 'slow', { callerP95: 1, answererP95: 0.1 })]).side).toBe('between');
    expect(cause([link('a', 'b', 'refused'), link('d', 'b', null)]).side).toBe('between');
  });
  it('is the answerer where all its callers see it', () => {
    expect(cause([link('a', 'b', 'failing'), link('d', 'b', 'failing')])).toMatchObject({
      side: 'answerer',
      evidence: ['all 2 of its callers see it'],
    });
    expect(cause([link('a', 'b', 'refused')]).side).toBe('answerer');
  });
  it('is told once, however many callers see it, or answerers get it', () => {
    const entries = (links: readonly JudgedLink[]) =>
      troubleOf(links).map(({ link: own, inside }) => [own, inside.length]);
    const down = [link('a', 'x', 'refused'), link('b', 'x', 'refused', { sent: 9 }), link('c', 'x', 'refused')];
    expect(entries(down)).toEqual([[expect.stringMatching(/:b → .*:x$/), 2]]);
    expect(entries([link('a', 'b', 'flooded'), link('a', 'c', 'flooded', { sent: 5 })])).toEqual([
      [expect.stringMatching(/:a → .*:c$/), 1],
    ]);
    // two that fail apart are two
    expect(entries([link('a', 'x', 'failing'), link('b', 'y', 'failing')])).toHaveLength(2);
  });
  it('ends where links in trouble go round in a circle', () => {
    const links = [link('a', 'b', 'slow'), link('b', 'c', 'slow'), link('c', 'a', 'slow')];
    const [entry, ...more] = troubleOf(links);
    expect(more).toEqual([]);
    expect(entry?.inside).toHaveLength(2);
  });
});
