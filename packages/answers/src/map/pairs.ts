import { endKey, type LinkEnd, OUTSIDE, type SeenBy } from '@zetopsis/core/links';
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
  readonly bytes: readonly ReadLine[];
}
export const NO_USUAL: ReadUsual = { requests: [], typical: [], failures: [], refused: [], p95: [], bytes: [] };
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
  /** By pair and side: of how many requests of the last five minutes a span came. */
  readonly seen: readonly ReadLine[];
  /** By pair: what machines counted up to the end of each minute, and the connections that are open. */
  readonly bytes: readonly ReadLine[];
  readonly connections: readonly ReadLine[];
  /** Of the bytes of the last five minutes, those by an address that changed hands within its minute. */
  readonly uncertain: readonly ReadLine[];
  /** This hour on other days, by pair, as the caller saw it. */
  readonly usual: ReadUsual;
}
export interface Sight {
  readonly sees: (end: LinkEnd) => boolean;
}
export const NOT_YOURS = 'not yours';
export const AT_ONCE = 100;

export interface Side {
  requests: Float64Array;
  failures: Float64Array;
  refused: Float64Array;
  p95: Float64Array | null;
  own: number;
  spent: number;
  seen: number;
}
export interface Pair {
  readonly from: LinkEnd;
  readonly to: LinkEnd;
  readonly protocols: Set<string>;
  readonly sides: Map<SeenBy, Side>;
  bytes: Float64Array | null;
  connections: number | null;
  uncertain: number;
  /** Sums of what is usual; of lengths there is none where several are one. */
  readonly usual: Map<keyof ReadUsual, number>;
}
export const MINUTES = 66;
export const nothing = (length: number): Float64Array => new Float64Array(length).fill(Number.NaN);
/** Of which nothing was told. */
export const newSide = (): Side => ({
  requests: nothing(MINUTES),
  failures: nothing(MINUTES),
  refused: nothing(MINUTES),
  p95: null,
  own: 0,
  spent: 0,
  seen: 0,
});
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

/** What was read, each pair once, as somebody may see it. */
export function* pairsOf(read: ReadLinks, known: Sight): Generator<void, Map<string, Pair>> {
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
      bytes: null,
      connections: null,
      uncertain: 0,
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
    const side = pair.sides.get(seenBy) ?? newSide();
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
  for (const { labels, values } of read.bytes) {
    const found = pairFor(labels);
    if (found) {
      found.pair.bytes ??= nothing(MINUTES);
      addTo(found.pair.bytes, eachMinute(values));
    }
    if (isDue()) yield;
  }
  for (const { labels, values } of read.connections) {
    const found = pairFor(labels);
    if (found) found.pair.connections = (found.pair.connections ?? 0) + (values.at(-1) || 0);
  }
  for (const { labels, values } of read.uncertain) {
    const found = pairFor(labels);
    if (found) found.pair.uncertain += values.at(-1) || 0;
  }
  for (const { labels, values } of read.seen) {
    const side = sideOf(labels);
    if (side) side.seen += values.at(-1) || 0;
    if (isDue()) yield;
  }
  for (const what of ['requests', 'typical', 'failures', 'refused', 'p95', 'bytes'] as const)
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

/** A link of which nothing was told in a minute of which others were, carried nothing in it: it was left out after an end of Zetopsis. */
export function* nothingIsNone(pairs: Iterable<Pair>): Generator<void, void> {
  const sides = [...pairs].flatMap((pair) => [...pair.sides.values()]);
  const told = Array.from({ length: MINUTES }, (_, i) => sides.some(({ requests }) => !Number.isNaN(requests[i]!)));
  for (const [n, { requests, failures, refused }] of sides.entries()) {
    if (n % AT_ONCE === 0) yield;
    const first = requests.findIndex((value) => !Number.isNaN(value));
    if (first < 0) continue;
    for (let i = first; i < MINUTES; i++)
      if (told[i]) for (const values of [requests, failures, refused]) if (Number.isNaN(values[i]!)) values[i] = 0;
  }
}
/** The first minute of which anything was told. */
export function firstTold(pairs: Iterable<Pair>): number {
  let first = MINUTES;
  for (const { sides } of pairs)
    for (const { requests } of sides.values()) {
      const own = requests.findIndex((value) => !Number.isNaN(value));
      if (own >= 0) first = Math.min(first, own);
    }
  return first;
}
/** When the points of what is read stand: each minute, one more before, and each five minutes, up to a moment. */
export const minutesUpTo = (at: EpochMs): Float64Array =>
  Float64Array.from({ length: MINUTES + 1 }, (_, i) => at - (MINUTES - i) * MINUTE);
export const fivesUpTo = (at: EpochMs): Float64Array =>
  Float64Array.from({ length: 13 }, (_, i) => at - (12 - i) * 5 * MINUTE);
