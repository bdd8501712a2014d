import { type MapAnswer, type MapBox, type MapLink, readPath } from '@zetopsis/contract';
import type { TroubledLink } from '@zetopsis/core/findings';
import {
  endKey,
  isOutside,
  type JudgedLink,
  judgeLink,
  type LinkCourse,
  type LinkEnd,
  type LinkUsual,
  OUTSIDE,
  readEndKey,
  type SeenBy,
  troubleBySteps,
} from '@zetopsis/core/links';
import { type EpochMs, MINUTE } from '@zetopsis/core/units';

/** What was read of the links of one pair, of one side. */
export interface ReadLine {
  readonly labels: Readonly<Record<string, string>>;
  readonly values: Float64Array;
}
/** The last value of each line: what is usual at this hour. Upper bands, but for what is typical; requests per second, s. */
export interface ReadUsual {
  readonly requests: readonly ReadLine[];
  readonly typical: readonly ReadLine[];
  readonly failures: readonly ReadLine[];
  readonly refused: readonly ReadLine[];
  readonly p95: readonly ReadLine[];
}
export const NO_USUAL: ReadUsual = { requests: [], typical: [], failures: [], refused: [], p95: [] };
export interface ReadLinks {
  readonly at: EpochMs;
  /** By pair, protocol and side: what was counted up to the end of each minute. */
  readonly requests: readonly ReadLine[];
  readonly failures: readonly ReadLine[];
  readonly refused: readonly ReadLine[];
  /** By pair and side: each five minutes. */
  readonly p95: readonly ReadLine[];
  /** By pair, of the answerer: seconds of its own and in all, over the last five minutes. */
  readonly own: readonly ReadLine[];
  readonly spent: readonly ReadLine[];
  /** This hour on other days, by pair, as the caller saw it. */
  readonly usual: ReadUsual;
}
export interface MapKnowledge {
  readonly sees: (end: LinkEnd) => boolean;
  readonly teamOf: (end: LinkEnd) => string | null;
}
/** So many are told at once, those in trouble and the busiest first. */
export const MOST_TOLD = 6000;
const NOT_YOURS = 'not yours';
const AT_ONCE = 100;

interface Side {
  requests: Float64Array;
  failures: Float64Array;
  refused: Float64Array;
  p95: Float64Array | null;
  own: number;
  spent: number;
}
interface Pair {
  readonly from: LinkEnd;
  readonly to: LinkEnd;
  readonly protocols: Set<string>;
  readonly sides: Map<SeenBy, Side>;
  /** Sums of what is usual; of lengths there is none where several are one. */
  readonly usual: Map<keyof ReadUsual, number>;
}
const MINUTES = 66;
const nothing = (length: number): Float64Array => new Float64Array(length).fill(Number.NaN);
const ends = (labels: ReadLine['labels']): { from: LinkEnd; to: LinkEnd; seenBy: SeenBy } => ({
  from: endOf(labels, 'from'),
  to: endOf(labels, 'to'),
  seenBy: labels['seen_by'] === 'answerer' ? 'answerer' : 'caller',
});
const endOf = (labels: ReadLine['labels'], side: 'from' | 'to'): LinkEnd => ({
  cluster: labels[`${side}_cluster`] ?? '',
  namespace: labels[`${side}_namespace`] ?? '',
  workload: labels[`${side}_workload`] ?? OUTSIDE.workload,
});
/** After so long without a sample nothing stands there any more: what comes then is new, minutes. */
const STALE = 3;
/**
 * What was counted in each minute, of what had been counted up to its end; one more was read before the first. What begins within is counted
 * from nothing, and so is what begins anew. NaN where nothing was told.
 */
export function eachMinute(counted: Float64Array): Float64Array {
  const each = nothing(counted.length - 1);
  let before = Number.NaN;
  for (let i = 0; i < counted.length; i++) {
    const value = counted[i]!;
    if (Number.isNaN(value)) continue;
    if (i > 0 && !Number.isNaN(before)) each[i - 1] = value >= before ? value - before : value;
    else if (i >= STALE) each[i - 1] = value;
    before = value;
  }
  return each;
}
function addTo(into: Float64Array, values: Float64Array): void {
  for (let i = 0; i < into.length; i++) {
    const value = values[i] ?? Number.NaN;
    if (!Number.isNaN(value)) into[i] = (Number.isNaN(into[i]!) ? 0 : into[i]!) + value;
  }
}

/** Who talks to whom, as far as somebody may see it: each pair once, whatever goes over it. Some links at a time: nobody waits for all. */
export function* mapBySteps(read: ReadLinks, known: MapKnowledge): Generator<void, MapAnswer> {
  const pairs = yield* pairsOf(read, known);
  const judged: ReturnType<typeof judgedPair>[] = [];
  const toldFrom = firstTold(pairs.values());
  nothingIsNone(pairs.values());
  for (const pair of pairs.values()) {
    judged.push(judgedPair(pair, read.at, toldFrom));
    if (judged.length % AT_ONCE === 0) yield;
  }
  const boxes = new Map<string, MapBox>();
  for (const { pair } of judged)
    for (const end of [pair.from, pair.to]) if (!boxes.has(endKey(end))) boxes.set(endKey(end), boxOf(end, known));
  const trouble = yield* troubleBySteps(judged.map(({ link }) => link));
  const inTrouble = new Set(trouble.flatMap(({ link, inside }) => [link, ...inside]));
  const links = judged
    .map(({ told }) => told)
    .sort(
      (a, b) =>
        Number(inTrouble.has(b.key)) - Number(inTrouble.has(a.key)) || busy(b) - busy(a) || (a.key < b.key ? -1 : 1),
    );
  const shown = links.slice(0, MOST_TOLD);
  const named = new Set(shown.flatMap(({ from, to }) => [from, to]));
  return {
    at: read.at,
    comparedAt: null,
    boxes: [...boxes.values()].filter(({ key }) => named.has(key)),
    links: shown,
    trouble: trouble.map(({ link, cause, inside }) => ({
      link,
      side: cause.side,
      evidence: [...cause.evidence],
      root: cause.root,
      inside: [...inside],
    })),
    left: links.length - shown.length,
    nothing: null,
  };
}
const busy = ({ sent, received }: MapLink): number => Math.max(sent ?? 0, received ?? 0);

function* pairsOf(read: ReadLinks, known: MapKnowledge): Generator<void, Map<string, Pair>> {
  const pairs = new Map<string, Pair>();
  let lines = 0;
  const isDue = () => ++lines % AT_ONCE === 0;
  // the other end bears its name only for who may see it
  const told = (end: LinkEnd): LinkEnd =>
    end.cluster === '' || known.sees(end) ? end : { cluster: '', namespace: '', workload: NOT_YOURS };
  const pairFor = (labels: ReadLine['labels']): { pair: Pair; seenBy: SeenBy } | null => {
    const { from, to, seenBy } = ends(labels);
    if (!known.sees(from) && !known.sees(to)) return null;
    const own = { from: told(from), to: told(to) };
    const key = `${endKey(own.from)} → ${endKey(own.to)}`;
    const pair = pairs.get(key) ?? {
      ...own,
      protocols: new Set<string>(),
      sides: new Map<SeenBy, Side>(),
      usual: new Map<keyof ReadUsual, number>(),
    };
    pairs.set(key, pair);
    return { pair, seenBy };
  };
  const sideOf = (labels: ReadLine['labels']): Side | null => {
    const found = pairFor(labels);
    if (found === null) return null;
    const { pair, seenBy } = found;
    const protocol = labels['protocol'] ?? '';
    if (protocol !== '') pair.protocols.add(protocol);
    const side = pair.sides.get(seenBy) ?? {
      requests: nothing(MINUTES),
      failures: nothing(MINUTES),
      refused: nothing(MINUTES),
      p95: null,
      own: 0,
      spent: 0,
    };
    pair.sides.set(seenBy, side);
    return side;
  };
  for (const what of ['requests', 'failures', 'refused'] as const)
    for (const { labels, values } of read[what]) {
      const side = sideOf(labels);
      if (side) addTo(side[what], eachMinute(values));
      if (isDue()) yield;
    }
  for (const { labels, values } of read.p95) {
    const side = sideOf(labels);
    // several that are one here have no percentile that could be told
    if (side) side.p95 = side.p95 === null ? values : nothing(values.length);
    if (isDue()) yield;
  }
  for (const what of ['own', 'spent'] as const)
    for (const { labels, values } of read[what]) {
      const side = sideOf({ ...labels, seen_by: 'answerer' });
      if (side) side[what] += values.at(-1) || 0;
      if (isDue()) yield;
    }
  for (const what of ['requests', 'typical', 'failures', 'refused', 'p95'] as const)
    for (const { labels, values } of read.usual[what]) {
      const usual = pairFor(labels)?.pair.usual;
      const value = values.at(-1) ?? Number.NaN;
      if (!usual || Number.isNaN(value)) continue;
      const known = usual.get(what);
      usual.set(what, known === undefined ? value : what === 'p95' ? Number.NaN : known + value);
      if (isDue()) yield;
    }
  return pairs;
}

const FIVE = 5;
/** Of the last five minutes; null where nothing was told in the hour. */
function lately(values: Float64Array): number | null {
  if (values.every(Number.isNaN)) return null;
  let sum = 0;
  for (const value of values.subarray(-FIVE)) if (!Number.isNaN(value)) sum += value;
  return sum;
}
const orNull = (value: number | undefined): number | null =>
  value === undefined || Number.isNaN(value) ? null : value;

/** A link of which nothing was told in a minute of which others were, carried nothing in it: it was left out after an end of Zetopsis. */
function nothingIsNone(pairs: Iterable<Pair>): void {
  const sides = [...pairs].flatMap((pair) => [...pair.sides.values()]);
  const told = Array.from({ length: MINUTES }, (_, i) => sides.some(({ requests }) => !Number.isNaN(requests[i]!)));
  for (const { requests, failures, refused } of sides) {
    const first = requests.findIndex((value) => !Number.isNaN(value));
    if (first < 0) continue;
    for (let i = first; i < MINUTES; i++)
      if (told[i]) for (const values of [requests, failures, refused]) if (Number.isNaN(values[i]!)) values[i] = 0;
  }
}
/** The first minute of which anything was told. */
function firstTold(pairs: Iterable<Pair>): number {
  let first = MINUTES;
  for (const { sides } of pairs)
    for (const { requests } of sides.values()) {
      const own = requests.findIndex((value) => !Number.isNaN(value));
      if (own >= 0) first = Math.min(first, own);
    }
  return first;
}
/** A link is new where others were told so many minutes before it. */
const OTHERS_BEFORE = 15;

function judgedPair(pair: Pair, at: EpochMs, toldFrom: number): { pair: Pair; link: JudgedLink; told: MapLink } {
  const caller = pair.sides.get('caller');
  const answerer = pair.sides.get('answerer');
  const best = caller ?? answerer!; // a pair has been told of by one of them
  const course: LinkCourse = {
    requests: best.requests,
    failures: best.failures,
    refused: best.refused,
    p95: best.p95 ?? nothing(13),
  };
  const usual = usualOf(pair);
  const judgement = judgeLink(course, usual, at);
  const rate = (side: Side | undefined) => {
    const sum = side && lately(side.requests);
    return sum === null || sum === undefined ? null : sum / (FIVE * 60);
  };
  const requests = lately(best.requests) ?? 0;
  const share = (values: Float64Array) => (requests > 0 ? (lately(values) ?? 0) / requests : null);
  const earlier = best.requests.subarray(0, -FIVE);
  const link: JudgedLink = {
    from: pair.from,
    to: pair.to,
    judgement,
    sent: rate(caller),
    received: rate(answerer),
    callerP95: orNull(caller?.p95?.at(-1)),
    answererP95: orNull(answerer?.p95?.at(-1)),
    ownShare: answerer && answerer.spent > 0 ? Math.min(1, answerer.own / answerer.spent) : null,
    carried: earlier.some((value) => value > 0),
    carries: requests > 0,
  };
  const key = `${endKey(pair.from)} → ${endKey(pair.to)}`;
  return {
    pair,
    link,
    told: {
      key,
      from: endKey(pair.from),
      to: endKey(pair.to),
      protocols: [...pair.protocols].sort(),
      state: judgement.state,
      now: judgement.now,
      usual: judgement.usual,
      against: judgement.against,
      since: judgement.since,
      sent: link.sent,
      received: link.received,
      failureShare: share(best.failures),
      refusedShare: share(best.refused),
      callerP95: link.callerP95,
      answererP95: link.answererP95,
      ownShare: link.ownShare,
      isNew: link.carries && !link.carried && toldFrom <= MINUTES - FIVE - OTHERS_BEFORE,
      course: [...best.requests].map((value) => (Number.isNaN(value) ? null : value)),
      was: null,
      change: null,
    },
  };
}

function usualOf({ usual }: Pair): LinkUsual {
  const requests = orNull(usual.get('requests'));
  const typical = usual.get('typical') ?? 0;
  const share = (of: 'failures' | 'refused') =>
    requests === null || typical <= 0 ? null : Math.min(1, (usual.get(of) ?? 0) / typical);
  return { requests, failureShare: share('failures'), refusedShare: share('refused'), p95: orNull(usual.get('p95')) };
}
function boxOf(end: LinkEnd, known: MapKnowledge): MapBox {
  const key = endKey(end);
  const [kind = '', ...rest] = end.workload.split(':');
  const name = rest.join(':');
  const nobody = {
    key,
    cluster: end.cluster,
    namespace: end.namespace,
    keeps: '',
    team: null,
    path: null,
  };
  if (end.workload === NOT_YOURS) return { ...nobody, kind: 'notYours', name: NOT_YOURS };
  if (isOutside(end)) return { ...nobody, kind: 'outside', name: 'outside' };
  if (end.cluster === '' || kind === 'host') return { ...nobody, kind: 'host', name: name || end.workload };
  const team = known.teamOf(end);
  if (kind === 'service') return { ...nobody, kind: 'service', name, team };
  const path = [end.cluster, end.namespace, end.workload];
  return {
    ...nobody,
    kind: 'workload',
    name,
    keeps: kind.replaceAll('-', ' '),
    team,
    path: readPath(path) === null ? null : path,
  };
}
/** Each link in trouble that is the root of its own, for findings. */
export function troubledLinks({ links, trouble }: MapAnswer): TroubledLink[] {
  const byKey = new Map(links.map((link) => [link.key, link]));
  return trouble.flatMap(({ link: key, side, evidence, root, inside }) => {
    const link = byKey.get(key);
    if (!link || link.state === null) return [];
    const { from, to, state, now, usual, since } = link;
    return {
      from: readEndKey(from),
      to: readEndKey(to),
      state,
      side,
      now,
      usual,
      since,
      // of what lies behind it tells by name
      evidence: root === null ? evidence : [],
      inside: inside.length,
    };
  });
}
/** When the points of what is read stand: each minute, one more before, and each five minutes, up to a moment. */
export const minutesUpTo = (at: EpochMs): Float64Array =>
  Float64Array.from({ length: MINUTES + 1 }, (_, i) => at - (MINUTES - i) * MINUTE);
export const fivesUpTo = (at: EpochMs): Float64Array =>
  Float64Array.from({ length: 13 }, (_, i) => at - (12 - i) * 5 * MINUTE);
