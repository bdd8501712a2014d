import type { LinkDay, SeenBy } from '@zetopsis/core/links';
import { type DurationMs, type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { addTo, eachMinute, nothing, type ReadDay, type ReadLine } from './read.ts';

/** So many lines are looked at between two steps. */
const AT_ONCE = 100;
const FIVES = 24 * 12;
const FIVE = 5 * MINUTE;
/** When the fives of a day end. */
export const fivesOfDay = (upTo: EpochMs): Float64Array =>
  Float64Array.from({ length: FIVES }, (_, i) => upTo - (FIVES - 1 - i) * FIVE);
/** When the minutes of an hour end, and one before. */
export const minutesOfHour = (end: EpochMs): Float64Array =>
  Float64Array.from({ length: 61 }, (_, i) => end - (60 - i) * MINUTE);
export const wholeHour = (at: EpochMs): EpochMs => Math.floor(at / HOUR) * HOUR;

const ENDS = ['from_cluster', 'from_namespace', 'from_workload', 'to_cluster', 'to_namespace', 'to_workload'] as const;
const lineKey = (labels: ReadLine['labels']): string => JSON.stringify([...ENDS, 'seen_by'].map((of) => labels[of]));
/** The end of the slot in which a line counted something last; null: in none. */
function lastSlot({ values }: ReadLine, upTo: EpochMs, slot: DurationMs): EpochMs | null {
  const last = values.findLastIndex((value) => value > 0);
  return last < 0 ? null : upTo - (values.length - 1 - last) * slot;
}
const hourWith = (end: EpochMs): EpochMs => Math.ceil(end / HOUR) * HOUR;

/**
 * The hours in which those were heard last that count nothing any more; some lines at a time, as all that goes over thousands of links. `now`:
 * what they counted up to the end of each minute.
 */
export function* hoursOfLast(
  { upTo, requests, bytes }: Pick<ReadDay, 'upTo' | 'requests' | 'bytes'>,
  now: readonly ReadLine[],
): Generator<void, ReadonlySet<EpochMs>> {
  const heard = new Set<string>();
  for (const [i, { labels, values }] of now.entries()) {
    if (eachMinute(values).some((value) => value > 0)) heard.add(lineKey(labels));
    if (i % AT_ONCE === 0) yield;
  }
  const hours = new Set<EpochMs>();
  for (const [i, line] of [...requests, ...bytes].entries()) {
    const last = heard.has(lineKey(line.labels)) ? null : lastSlot(line, upTo, FIVE);
    if (last !== null) hours.add(hourWith(last));
    if (i % AT_ONCE === 0) yield;
  }
  return hours;
}
/** Of lines that say what was counted up to the end of each minute of an hour: when each counted something last. */
export function* lastHeard(lines: readonly ReadLine[], end: EpochMs): Generator<void, ReadonlyMap<string, EpochMs>> {
  const heard = new Map<string, EpochMs>();
  for (const [i, { labels, values }] of lines.entries()) {
    const each = eachMinute(values);
    const last = each.findLastIndex((value) => value > 0);
    if (last >= 0) heard.set(lineKey(labels), end - (each.length - 1 - last) * MINUTE);
    if (i % AT_ONCE === 0) yield;
  }
  return heard;
}

/** The end of the last minute in which a line counted something; of its slot where its minutes are not read. Null: in none. */
export function lastExactly(
  line: ReadLine,
  { upTo, hours, slot }: Pick<ReadDay, 'upTo' | 'hours'> & { readonly slot: DurationMs },
): EpochMs | null {
  const last = lastSlot(line, upTo, slot);
  return last === null ? null : (hours.get(hourWith(last))?.get(lineKey(line.labels)) ?? last);
}

export type DaySide = SeenBy | 'wire';
/** What one side of a pair counted over the day; several that are one here are added up. */
export interface DayOfSide {
  readonly fives: Float64Array;
  lastAt: EpochMs | null;
}
export function addDay(sides: Map<DaySide, DayOfSide>, line: ReadLine, day: Pick<ReadDay, 'upTo' | 'hours'>): void {
  const seenBy = line.labels['seen_by'];
  const side: DaySide = seenBy === 'wire' || seenBy === 'answerer' ? seenBy : 'caller';
  const own = sides.get(side) ?? newDay();
  sides.set(side, own);
  addToDay(own, line, day);
}
export const newDay = (): DayOfSide => ({ fives: nothing(FIVES), lastAt: null });
export function addToDay(own: DayOfSide, line: ReadLine, day: Pick<ReadDay, 'upTo' | 'hours'>): void {
  addTo(own.fives, line.values);
  const last = lastExactly(line, { ...day, slot: FIVE });
  if (last !== null) own.lastAt = Math.max(own.lastAt ?? 0, last);
}
/** Of the side that judges; null: it counted nothing. */
export const dayOf = (own: DayOfSide | undefined, upTo: EpochMs | undefined): LinkDay | null =>
  own === undefined || upTo === undefined ? null : { ...own, upTo };
