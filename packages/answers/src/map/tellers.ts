import { gapsIn, silentSince } from '@zetopsis/core/links';
import { type EpochMs, MINUTE } from '@zetopsis/core/units';
import { addToDay, type DayOfSide, dayOf, newDay } from './day.ts';
import { addTo, eachMinute, MINUTES, nothing, type ReadLine, type ReadLinks } from './read.ts';

/** Who tells of links: the programs of a cluster, or its machines. */
export interface Teller {
  /** Minutes in which it was heard, or may be said to have had nothing to tell. */
  readonly told: Uint8Array;
  /** The end of the last minute of which anything came, of one that is not heard any more; null: it is. */
  readonly blindSince: EpochMs | null;
}
/** Of so many programs that told: one that stopped is silent. */
const PROGRAMS = 3;

type What = 'requests' | 'bytes';
export function tellerOf(labels: ReadLine['labels'], what: What): string {
  const [from, to] = [labels['from_cluster'], labels['to_cluster']];
  return `${what} ${(labels['seen_by'] === 'answerer' ? to || from : from || to) ?? ''}`;
}
const programOf = ({ seen_by, ...labels }: ReadLine['labels']): string =>
  seen_by === 'answerer'
    ? `${labels['to_namespace']}/${labels['to_workload']}`
    : `${labels['from_namespace']}/${labels['from_workload']}`;

interface Gathered {
  /** All that it told together. */
  readonly minutes: Float64Array;
  readonly day: DayOfSide;
  readonly programs: Set<string>;
}
/** The same for whoever asks. */
const known = new WeakMap<ReadLinks, ReadonlyMap<string, Teller>>();
/** Everybody who tells, whatever of it somebody may see; some lines at a time. */
export function* tellersOf(read: ReadLinks): Generator<void, ReadonlyMap<string, Teller>> {
  const tellers = known.get(read) ?? (yield* lookAt(read));
  known.set(read, tellers);
  return tellers;
}
function* lookAt(read: ReadLinks): Generator<void, ReadonlyMap<string, Teller>> {
  const { at, day } = read;
  const gathered = new Map<string, Gathered>();
  const of = (labels: ReadLine['labels'], what: What) => {
    const key = tellerOf(labels, what);
    const own = gathered.get(key) ?? {
      minutes: nothing(MINUTES),
      day: newDay(),
      programs: new Set<string>(),
    };
    gathered.set(key, own);
    return own;
  };
  let lines = 0;
  for (const what of ['requests', 'bytes'] as const) {
    for (const { labels, values } of read[what]) {
      const own = of(labels, what);
      const each = eachMinute(values);
      addTo(own.minutes, each);
      if (each.some((value) => value > 0)) own.programs.add(programOf(labels));
      if (++lines % 100 === 0) yield;
    }
    for (const line of day?.[what] ?? []) {
      const own = of(line.labels, what);
      addToDay(own.day, line, day!); // it is of it
      if (line.values.some((value) => value > 0)) own.programs.add(programOf(line.labels));
      if (++lines % 100 === 0) yield;
    }
  }
  return new Map([...gathered].map(([key, own]) => [key, tellerIn(own, at, day?.upTo)]));
}
/** So many minutes without a word of anybody are a gap, whatever the reason. */
const GAP = 3;
function tellerIn({ minutes, day, programs }: Gathered, at: EpochMs, upTo: EpochMs | undefined): Teller {
  const gaps = programs.size < PROGRAMS ? new Uint8Array(MINUTES) : gapsIn(minutes);
  const last = minutes.findLastIndex((value) => value > 0);
  const silent =
    programs.size < PROGRAMS ? null : silentSince({ minutes, day: dayOf(day, upTo), typical: null }, MINUTES, at);
  const unknown = MINUTES - 1 - minutes.findLastIndex((value) => !Number.isNaN(value));
  const heardAt = last < 0 ? (silent ?? day.lastAt) : at - (MINUTES - 1 - last) * MINUTE;
  const isBlind = gaps.at(-1) === 1 || silent !== null || unknown > GAP;
  if (isBlind) gaps.fill(1, last + 1);
  return {
    told: gaps.map((gap, i) => (gap === 1 || Number.isNaN(minutes[i]!) ? 0 : 1)),
    blindSince: isBlind ? heardAt : null,
  };
}
