import { endKey, type LinkEnd, OUTSIDE, type SeenBy } from '@zetopsis/core/links';
import { addDay, type DayOfSide, type DaySide } from './day.ts';
import { addTo, eachMinute, MINUTES, nothing, type ReadLine, type ReadLinks, type ReadUsual } from './read.ts';
import { type Teller, tellerOf, tellersOf } from './tellers.ts';

export interface Sight {
  readonly sees: (end: LinkEnd) => boolean;
}
export const NOT_YOURS = 'not yours';
export const AT_ONCE = 100;
/** Whoever was heard within so many minutes is not silent. */
const PAUSE = 10;

export interface Side {
  requests: Float64Array;
  failures: Float64Array;
  refused: Float64Array;
  p95: Float64Array | null;
  own: number;
  spent: number;
  seen: number;
  /** Who tells of it. */
  readonly tellers: Set<string>;
}
export interface Pair {
  readonly from: LinkEnd;
  readonly to: LinkEnd;
  readonly protocols: Set<string>;
  readonly sides: Map<SeenBy, Side>;
  bytes: Float64Array | null;
  readonly bytesBy: Set<string>;
  connections: number | null;
  uncertain: number;
  /** Sums of what is usual; of lengths there is none where several are one. */
  readonly usual: Map<keyof ReadUsual, number>;
  readonly day: Map<DaySide, DayOfSide>;
}
export interface Pairs {
  readonly pairs: ReadonlyMap<string, Pair>;
  readonly tellers: ReadonlyMap<string, Teller>;
}
/** Of which nothing was told. */
export const newSide = (): Side => ({
  requests: nothing(MINUTES),
  failures: nothing(MINUTES),
  refused: nothing(MINUTES),
  p95: null,
  own: 0,
  spent: 0,
  seen: 0,
  tellers: new Set(),
});
export const ends = (labels: ReadLine['labels']): { from: LinkEnd; to: LinkEnd; seenBy: SeenBy } => ({
  from: endOf(labels, 'from'),
  to: endOf(labels, 'to'),
  seenBy: labels['seen_by'] === 'answerer' ? 'answerer' : 'caller',
});
const endOf = (labels: ReadLine['labels'], side: 'from' | 'to'): LinkEnd => ({
  cluster: labels[`${side}_cluster`] ?? '',
  namespace: labels[`${side}_namespace`] ?? '',
  workload: labels[`${side}_workload`] ?? OUTSIDE.workload,
});

/** What was read, each pair once, as somebody may see it. */
export function* pairsOf(read: ReadLinks, known: Sight): Generator<void, Pairs> {
  const pairs = new Map<string, Pair>();
  const tellers = yield* tellersOf(read);
  // while nothing came of anybody, nothing is known
  const counted = (values: Float64Array, teller: string) => {
    const told = tellers.get(teller)?.told;
    return eachMinute(values).map((value, i) => (told?.[i] === 0 ? Number.NaN : value));
  };
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
      bytesBy: new Set<string>(),
      connections: null,
      uncertain: 0,
      usual: new Map<keyof ReadUsual, number>(),
      day: new Map<DaySide, DayOfSide>(),
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
    side.tellers.add(tellerOf(labels, 'requests'));
    return side;
  };
  for (const what of ['requests', 'failures', 'refused'] as const)
    for (const { labels, values } of read[what]) {
      const side = sideOf(labels);
      if (side) addTo(side[what], counted(values, tellerOf(labels, 'requests')));
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
      const teller = tellerOf(labels, 'bytes');
      found.pair.bytes ??= nothing(MINUTES);
      found.pair.bytesBy.add(teller);
      addTo(found.pair.bytes, counted(values, teller));
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
  for (const what of ['requests', 'bytes'] as const)
    for (const line of read.day?.[what] ?? []) {
      const found = pairFor(line.labels);
      if (found && read.day) {
        const { pair, seenBy } = found;
        const course = what === 'requests' ? pair.sides.get(seenBy)?.requests : pair.bytes;
        // silence alone asks for the day
        if (!course?.subarray(-PAUSE).some((value) => value > 0)) {
          addDay(pair.day, line, read.day);
          // silent since before its course: it has a side of which nothing was told
          if (what === 'requests') sideOf(line.labels);
          else {
            pair.bytes ??= nothing(MINUTES);
            pair.bytesBy.add(tellerOf(line.labels, 'bytes'));
          }
        }
      }
      if (isDue()) yield;
    }
  return { pairs, tellers };
}

/**
 * A link of which nothing was told in a minute of which its teller told others, carried nothing in it: it was left out after an end of
 * Zetopsis.
 */
export function* nothingIsNone({ pairs, tellers }: Pairs): Generator<void, void> {
  const fill = (all: readonly Float64Array[], by: ReadonlySet<string>, day: DayOfSide | undefined) => {
    const first = all[0]!.findIndex((value) => !Number.isNaN(value)); // there is one
    const begins = day?.fives.some((value) => value > 0) ? 0 : first;
    if (begins < 0) return;
    for (let i = begins; i < MINUTES; i++)
      if ([...by].some((teller) => tellers.get(teller)?.told[i] === 1))
        for (const values of all) if (Number.isNaN(values[i]!)) values[i] = 0;
  };
  let n = 0;
  for (const { sides, bytes, bytesBy, day } of pairs.values()) {
    for (const [seenBy, { requests, failures, refused, tellers: by }] of sides)
      fill([requests, failures, refused], by, day.get(seenBy));
    if (bytes) fill([bytes], bytesBy, day.get('wire'));
    if (++n % AT_ONCE === 0) yield;
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
