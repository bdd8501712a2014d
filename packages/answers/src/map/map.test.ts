import { endKey, type LinkEnd } from '@zetopsis/core/links';
import { toTheEnd } from '@zetopsis/core/steps';
import { describe, expect, it } from 'vitest';
import { type MapKnowledge, mapBySteps } from './map.ts';
import { eachMinute, fivesUpTo, minutesUpTo, NO_USUAL, type ReadLine, type ReadLinks } from './pairs.ts';

const AT = 1_790_000_040_000;
const end = (name: string, namespace = 'quay'): LinkEnd => ({
  cluster: 'seaward',
  namespace,
  workload: `deployment:${name}`,
});
const labels = (from: LinkEnd, to: LinkEnd, seenBy = 'caller', protocol = 'http') => ({
  from_cluster: from.cluster,
  from_namespace: from.namespace,
  from_workload: from.workload,
  to_cluster: to.cluster,
  to_namespace: to.namespace,
  to_workload: to.workload,
  protocol,
  seen_by: seenBy,
});
/** A counter that grows by so much a minute. */
const counted = (of: (ago: number) => number): Float64Array => {
  const { length } = minutesUpTo(AT);
  let sum = 100;
  return Float64Array.from({ length }, (_, i) => (sum += of(length - 1 - i)));
};
const line = (
  from: LinkEnd,
  to: LinkEnd,
  of: (ago: number) => number,
  seenBy = 'caller',
  protocol = 'http',
): ReadLine => ({
  labels: labels(from, to, seenBy, protocol),
  values: counted(of),
});
const read = (own: Partial<ReadLinks>): ReadLinks => ({
  at: AT,
  requests: [],
  failures: [],
  refused: [],
  p95: [],
  own: [],
  spent: [],
  seen: [],
  bytes: [],
  connections: [],
  uncertain: [],
  usual: NO_USUAL,
  ...own,
});
const all: MapKnowledge = { sees: () => true, teamOf: () => 'Ferries' };
const mapOf = (of: Partial<ReadLinks>, known = all) => toTheEnd(mapBySteps(read(of), known));
const [FRONT, LEDGER, OTHER, OUTSIDE] = [
  end('front'),
  end('ledger'),
  end('other', 'mole'),
  { cluster: '', namespace: '', workload: 'outside' },
];

describe('what was counted in each minute', () => {
  it('is the difference, from nothing where it begins, or begins anew', () => {
    const { NaN: none } = Number;
    expect([...eachMinute(Float64Array.of(10, 12, 15, 15))]).toEqual([2, 3, 0]);
    expect([...eachMinute(Float64Array.of(10, 12, 4, 6))]).toEqual([2, 4, 2]);
    expect([...eachMinute(Float64Array.of(none, none, none, 7, 9))]).toEqual([none, none, 7, 2]);
    // it may have been there before
    expect([...eachMinute(Float64Array.of(none, 700, 703))]).toEqual([none, 3]);
    expect([...eachMinute(Float64Array.of(10, none, 14))]).toEqual([none, 4]);
  });
});

describe('the map', () => {
  it('has each pair once, whatever goes over it, with what both sides saw', () => {
    const { links, boxes } = mapOf({
      requests: [
        line(FRONT, LEDGER, () => 30),
        line(FRONT, LEDGER, () => 6, 'caller', 'queue'),
        line(FRONT, LEDGER, () => 24, 'answerer'),
      ],
      failures: [line(FRONT, LEDGER, () => 9)],
      own: [{ labels: labels(FRONT, LEDGER, ''), values: Float64Array.of(3) }],
      spent: [{ labels: labels(FRONT, LEDGER, ''), values: Float64Array.of(12) }],
    });
    expect(links).toHaveLength(1);
    expect(links[0]).toMatchObject({
      protocols: ['http', 'queue'],
      sent: 0.6,
      received: 0.4,
      ownShare: 0.25,
      failureShare: 0.25,
    });
    expect(boxes.map(({ name, keeps, team }) => [name, keeps, team])).toEqual([
      ['front', 'deployment', 'Ferries'],
      ['ledger', 'deployment', 'Ferries'],
    ]);
  });
  it('names no end that somebody may not see, and sums what is not theirs', () => {
    const known = { ...all, sees: ({ namespace }: LinkEnd) => namespace === 'quay' };
    const third = end('third', 'pier');
    const answer = mapOf(
      {
        requests: [
          line(OTHER, LEDGER, () => 12),
          line(third, LEDGER, () => 18),
          line(OTHER, third, () => 60),
          line(OUTSIDE, LEDGER, () => 6),
        ],
        p95: [OTHER, third].map((from) => ({
          labels: labels(from, LEDGER),
          values: Float64Array.from(fivesUpTo(AT), () => 0.1),
        })),
      },
      known,
    );
    expect(JSON.stringify(answer)).not.toMatch(/other|third|mole|pier/);
    const summed = answer.links.find(({ from }) => from.includes('not yours'));
    expect(summed).toMatchObject({ sent: 0.5, callerP95: null });
    expect(answer.links).toHaveLength(2);
    expect(answer.boxes.find(({ kind }) => kind === 'notYours')?.path).toBeNull();
  });
  it('tells trouble by one entry for each cause, told from what is seen alone', () => {
    const base = end('base');
    const cut = (ago: number) => (ago < 30 ? 0 : 30);
    const answer = mapOf({ requests: [line(FRONT, LEDGER, () => 30), line(LEDGER, base, cut)] });
    expect(answer.trouble).toHaveLength(1);
    expect(answer.trouble[0]).toMatchObject({
      link: `${endKey(LEDGER)} → ${endKey(base)}`,
      side: 'caller',
      root: null,
    });
    expect(answer.links[0]?.state).toBe('silent');
  });
  it('knows a link to be silent that was left out after an end of Zetopsis, as others are told', () => {
    const { values } = line(FRONT, LEDGER, () => 30);
    const until = (ago: number) => values.map((value, i) => (values.length - 1 - i < ago ? Number.NaN : value));
    const gone = (ago: number) => ({ labels: labels(FRONT, LEDGER), values: Float64Array.from(until(ago)) });
    const others = line(OTHER, LEDGER, () => 12);
    expect(
      mapOf({ requests: [gone(30), others] })
        .links.map(({ state }) => state)
        .sort(),
    ).toEqual([null, 'silent'].sort());
    // nothing is told of anybody: that is not known
    expect(
      mapOf({
        requests: [
          gone(30),
          {
            ...others,
            values: Float64Array.from(others.values.map((value, i) => (i > values.length - 31 ? Number.NaN : value))),
          },
        ],
      }).trouble,
    ).toEqual([]);
  });
  it('is empty where nothing was read', () => {
    expect(mapOf({})).toMatchObject({ boxes: [], links: [], trouble: [], left: 0 });
  });
});
