import { endKey, type LinkEnd } from '@zetopsis/core/links';
import { toTheEnd } from '@zetopsis/core/steps';
import { HOUR, MINUTE } from '@zetopsis/core/units';
import { describe, expect, it } from 'vitest';
import { fivesOfDay, hoursOfLast, lastHeard, minutesOfHour, wholeHour } from './day.ts';
import { type MapKnowledge, mapBySteps, troubledLinks } from './map.ts';
import { eachMinute, fivesUpTo, minutesUpTo, NO_USUAL, type ReadLine, type ReadLinks } from './read.ts';

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
  day: null,
  ...own,
});
const EVERYBODY: MapKnowledge = { sees: () => true, teamOf: () => 'Ferries' };
const mapOf = (of: Partial<ReadLinks>, known = EVERYBODY) => toTheEnd(mapBySteps(read(of), known));
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
    const known = { ...EVERYBODY, sees: ({ namespace }: LinkEnd) => namespace === 'quay' };
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
  it('keeps a link in trouble that fell silent hours ago, until a day is over', () => {
    const silent = (hoursAgo: number) => {
      const upTo = wholeHour(AT);
      const end = upTo - hoursAgo * HOUR + 20 * MINUTE;
      const fives = Float64Array.from(fivesOfDay(upTo), (at) => (at <= end ? 150 : 0));
      const own = [{ labels: labels(FRONT, LEDGER), values: counted(() => 0) }, line(OTHER, LEDGER, () => 12)];
      const day = { upTo, requests: [{ labels: labels(FRONT, LEDGER), values: fives }], bytes: [] };
      const hours = toTheEnd(hoursOfLast(day, own));
      const minutes = minutesOfHour(upTo - (hoursAgo - 1) * HOUR);
      const heard = toTheEnd(
        lastHeard(
          [{ labels: labels(FRONT, LEDGER), values: minutes.map((at) => Math.min(at, end - MINUTE)) }],
          minutes.at(-1)!,
        ),
      );
      expect([...hours]).toEqual(hoursAgo > 24 ? [] : [minutes.at(-1)]);
      return { answer: mapOf({ requests: own, day: { ...day, hours: new Map([[minutes.at(-1)!, heard]]) } }), end };
    };
    for (const hoursAgo of [2, 5, 20]) {
      const { answer, end: fell } = silent(hoursAgo);
      const link = answer.links.find(({ from }) => from === endKey(FRONT));
      expect(link).toMatchObject({ state: 'silent', since: fell - MINUTE, blindSince: null, usual: 0.5 });
      expect(answer.trouble.map((one) => one.link)).toEqual([link?.key]);
    }
    expect(silent(30).answer.links.map(({ from }) => from)).toEqual([endKey(OTHER)]);
  });
  it('calls nobody silent of whose cluster nothing is told any more, whoever looks; one that stops is', () => {
    const names = ['front', 'gate', 'ticker', 'board'].map((name) => end(name));
    const stopped = (ago: number) => (ago < 20 ? 0 : 30);
    const elsewhere = { ...end('far'), cluster: 'landward' };
    const requests = [...names.map((from) => line(from, LEDGER, stopped)), line(elsewhere, LEDGER, () => 12)];
    const all = mapOf({ requests });
    expect(all.trouble).toEqual([]);
    expect(new Set(all.links.map(({ from, state, blindSince }) => `${from} ${state} ${blindSince}`))).toEqual(
      new Set([...names.map((from) => `${endKey(from)} null ${AT - 20 * MINUTE}`), `${endKey(elsewhere)} null null`]),
    );
    // what was the matter stays so, as it was when it was heard last
    const failing = line(FRONT, end('far'), stopped);
    const failures = { ...line(FRONT, end('far'), (ago) => (ago >= 20 && ago < 40 ? 15 : 0)) };
    const last = mapOf({ requests: [...requests, failing], failures: [failures] });
    expect(last.trouble.map(({ link }) => link)).toEqual([`${endKey(FRONT)} → ${endKey(end('far'))}`]);
    expect(last.links[0]).toMatchObject({ state: 'failing', since: AT - 40 * MINUTE, blindSince: AT - 20 * MINUTE });
    expect(troubledLinks(last)[0]?.evidence.at(-1)).toMatch(/nothing is told/);
    // over again, it was no pause of anybody: what is the matter keeps its date
    const gap = (of: (ago: number) => number) => (ago: number) => (ago >= 8 && ago < 14 ? 0 : of(ago));
    const flooded = line(
      FRONT,
      end('far'),
      gap((ago) => (ago < 30 ? 240 : 30)),
    );
    const again = mapOf({
      requests: [
        flooded,
        ...names.map((from) =>
          line(
            from,
            LEDGER,
            gap(() => 30),
          ),
        ),
      ],
    });
    expect(again.trouble).toHaveLength(1);
    expect(again.links[0]).toMatchObject({ state: 'flooded', since: AT - 30 * MINUTE, blindSince: null });
    for (const { course } of again.links) expect(course.slice(-14, -8)).toEqual(Array(6).fill(null));
    // who sees one of them only is told the same
    const sees = ({ workload }: LinkEnd) => workload.endsWith('front');
    expect(mapOf({ requests }, { ...EVERYBODY, sees }).links).toMatchObject([
      { state: null, blindSince: AT - 20 * MINUTE },
    ]);
    const one = mapOf({ requests: [...names.slice(1).map((from) => line(from, LEDGER, () => 30)), requests[0]!] });
    expect(one.trouble).toMatchObject([{ link: `${endKey(FRONT)} → ${endKey(LEDGER)}` }]);
    // what the answerer tells of it is known all the same
    const heard = line(FRONT, elsewhere, () => 30, 'answerer');
    expect(mapOf({ requests: [...requests, line(FRONT, elsewhere, stopped), heard] }).links).toContainEqual(
      expect.objectContaining({ to: endKey(elsewhere), from: endKey(FRONT), state: null, blindSince: null }),
    );
  });
  it('has as much a second where a minute is not told yet', () => {
    const { labels: own, values } = line(FRONT, LEDGER, () => 30);
    const later = { labels: own, values: values.map((value, i) => (i === values.length - 1 ? Number.NaN : value)) };
    const wire = { ...later, labels: { ...labels(FRONT, OTHER, 'wire') } };
    expect(mapOf({ requests: [later], bytes: [wire] }).links).toMatchObject([
      { sent: 0.5, now: 0.5 },
      { bytes: 0.5, now: 0.5 },
    ]);
  });
  it('is empty where nothing was read', () => {
    expect(mapOf({})).toMatchObject({ boxes: [], links: [], trouble: [], left: 0 });
  });
});
