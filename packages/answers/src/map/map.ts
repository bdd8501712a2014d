import type { MapAnswer, MapBox, MapLink } from '@zetopsis/contract';
import { readPath } from '@zetopsis/contract';
import type { TroubledLink } from '@zetopsis/core/findings';
import {
  endKey,
  isOutside,
  type JudgedLink,
  judgeLink,
  type LinkCourse,
  type LinkEnd,
  type LinkJudgement,
  type LinkUsual,
  perSecond,
  readEndKey,
  troubleBySteps,
} from '@zetopsis/core/links';
import { type EpochMs, MINUTE } from '@zetopsis/core/units';
import { NO_STATE } from './boxStates.ts';
import { dayOf } from './day.ts';
import {
  AT_ONCE,
  firstTold,
  NOT_YOURS,
  newSide,
  nothingIsNone,
  type Pair,
  pairsOf,
  type Side,
  type Sight,
} from './pairs.ts';
import { MINUTES, nothing, type ReadLinks } from './read.ts';
import type { Teller } from './tellers.ts';

export interface MapKnowledge extends Sight {
  readonly teamOf: (end: LinkEnd) => string | null;
}
/** So many are told at once, those in trouble and the busiest first. */
export const MOST_TOLD = 6000;
/** Who talks to whom, as far as somebody may see it: each pair once, whatever goes over it. Some links at a time: nobody waits for all. */
export function* mapBySteps(read: ReadLinks, known: MapKnowledge): Generator<void, MapAnswer> {
  const all = yield* pairsOf(read, known);
  const { pairs } = all;
  const judged: ReturnType<typeof judgedPair>[] = [];
  const toldFrom = firstTold(pairs.values());
  yield;
  yield* nothingIsNone(all);
  for (const pair of pairs.values()) {
    const one = judgedPair(pair, { at: read.at, toldFrom, dayUpTo: read.day?.upTo, tellers: all.tellers });
    // what carried nothing for longer than its course is told only where that is the matter with it, or where that is not known
    const { link, told } = one;
    if (link.carried || link.carries || link.judgement.state !== null || told.blindSince !== null) judged.push(one);
    if (judged.length % AT_ONCE === 0) yield;
  }
  const boxes = new Map<string, MapBox>();
  for (const [i, { pair, told }] of judged.entries()) {
    if (!boxes.has(told.from)) boxes.set(told.from, boxOf(pair.from, known));
    if (!boxes.has(told.to)) boxes.set(told.to, boxOf(pair.to, known));
    if (i % AT_ONCE === 0) yield;
  }
  const trouble = yield* troubleBySteps(judged.map(({ link }) => link));
  const inTrouble = new Set(trouble.flatMap(({ link, inside }) => [link, ...inside]));
  yield;
  const links = judged
    .map(({ told }) => ({ told, ill: inTrouble.has(told.key), rate: busy(told) }))
    .sort((a, b) => Number(b.ill) - Number(a.ill) || b.rate - a.rate || (a.told.key < b.told.key ? -1 : 1));
  yield;
  const shown = links.slice(0, MOST_TOLD).map(({ told }) => told);
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
      people: null,
    })),
    left: links.length - shown.length,
    nothing: null,
  };
}
/** A kilobyte counts as a request. */
const busy = ({ sent, received, bytes }: MapLink): number => Math.max(sent ?? 0, received ?? 0, (bytes ?? 0) / 1024);

const FIVE = 5;
/** Of the last five minutes; null where nothing was told in them. */
function lately(values: Float64Array): number | null {
  if (values.subarray(-FIVE).every(Number.isNaN)) return null;
  let sum = 0;
  for (const value of values.subarray(-FIVE)) if (!Number.isNaN(value)) sum += value;
  return sum;
}
const orNull = (value: number | undefined): number | null =>
  value === undefined || Number.isNaN(value) ? null : value;

/** A link is new where others were told so many minutes before it. */
const OTHERS_BEFORE = 15;

interface Moment {
  readonly at: EpochMs;
  readonly toldFrom: number;
  readonly dayUpTo: EpochMs | undefined;
  readonly tellers: ReadonlyMap<string, Teller>;
}
function judgedPair(
  pair: Pair,
  { at, toldFrom, dayUpTo, tellers }: Moment,
): { pair: Pair; link: JudgedLink; told: MapLink } {
  const caller = pair.sides.get('caller');
  const answerer = pair.sides.get('answerer');
  // who is not read any more judges nothing
  const isRead = (side: Side | undefined) => side !== undefined && lately(side.requests) !== null;
  const judges = caller && (isRead(caller) || !isRead(answerer)) ? 'caller' : 'answerer';
  const best = pair.sides.get(judges) ?? newSide();
  const course: LinkCourse = {
    requests: best.requests,
    failures: best.failures,
    refused: best.refused,
    p95: best.p95 ?? nothing(13),
    bytes: pair.bytes,
    day: dayOf(pair.day.get(pair.sides.size > 0 ? judges : 'wire'), dayUpTo),
  };
  const usual = usualOf(pair);
  const blind = blindSince(pair, tellers);
  const judgement = blind === null ? judgeLink(course, usual, at) : judgedLast(course, usual, at);
  const rate = (side: Side | undefined) => {
    return side === undefined ? null : orNull(perSecond(side.requests.subarray(-FIVE)));
  };
  const requests = lately(best.requests) ?? 0;
  const bytes = pair.bytes && lately(pair.bytes);
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
    carried:
      judgement.state === 'silent' ||
      earlier.some((value) => value > 0) ||
      (pair.bytes?.subarray(0, -FIVE).some((value) => value > 0) ?? false),
    carries: requests > 0 || (bytes ?? 0) > 0,
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
      by: judgement.by,
      bytes: pair.bytes && orNull(perSecond(pair.bytes.subarray(-FIVE))),
      connections: pair.connections,
      uncertainShare: bytes === null || bytes === 0 ? null : Math.min(1, pair.uncertain / bytes),
      state: judgement.state,
      blindSince: blind,
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
      seenShare: requests > 0 && best.seen > 0 ? Math.min(1, best.seen / requests) : null,
      isNew: link.carries && !link.carried && toldFrom <= MINUTES - FIVE - OTHERS_BEFORE,
      course: [...(judgement.by === 'bytes' ? (pair.bytes ?? best.requests) : best.requests)].map((value) =>
        Number.isNaN(value) ? null : value,
      ),
      was: null,
      change: null,
    },
  };
}
/** Of a course so short nothing is said. */
const SHORTEST = 20;
/** Whoever is not heard any more is what it was when it was heard last, as long as its course reaches back to that. */
function judgedLast(course: LinkCourse, usual: LinkUsual, at: EpochMs): LinkJudgement {
  const told = course.requests.every(Number.isNaN) && course.bytes ? course.bytes : course.requests;
  const last = told.findLastIndex((value) => !Number.isNaN(value));
  const back = last + 1 < SHORTEST ? 0 : MINUTES - 1 - last;
  const cut = (values: Float64Array, by: number) => values.subarray(0, values.length - by);
  const { requests, failures, refused, p95, bytes } = course;
  const then = {
    ...course,
    requests: cut(requests, back),
    failures: cut(failures, back),
    refused: cut(refused, back),
    p95: cut(p95, Math.ceil(back / FIVE)),
    bytes: bytes ? cut(bytes, back) : null,
  };
  return judgeLink(then, usual, at - back * MINUTE);
}
/** When the last of all who tell of it was not read any more; null: somebody is. */
function blindSince(pair: Pair, tellers: ReadonlyMap<string, Teller>): EpochMs | null {
  const by = [...pair.bytesBy, ...[...pair.sides.values()].flatMap((side) => [...side.tellers])];
  const all = by.map((teller) => tellers.get(teller)?.blindSince ?? null);
  return all.length === 0 || all.includes(null) ? null : Math.max(...all.map((since) => since ?? 0));
}

function usualOf({ usual }: Pair): LinkUsual {
  const requests = orNull(usual.get('requests'));
  const typical = usual.get('typical') ?? 0;
  const share = (of: 'failures' | 'refused') =>
    requests === null || typical <= 0 ? null : Math.min(1, (usual.get(of) ?? 0) / typical);
  return {
    requests,
    typical: orNull(usual.get('typical')),
    failureShare: share('failures'),
    refusedShare: share('refused'),
    p95: orNull(usual.get('p95')),
    bytes: orNull(usual.get('bytes')),
  };
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
    ...NO_STATE,
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
    const { from, to, state, by, now, usual, since } = link;
    return {
      from: readEndKey(from),
      to: readEndKey(to),
      state,
      by,
      side,
      now,
      usual,
      since,
      // of what lies behind it tells by name
      evidence: [
        ...(root === null ? evidence : []),
        ...(link.blindSince === null ? [] : ['nothing is told by its cluster any more: so it was last']),
      ],
      inside: inside.length,
    };
  });
}
