import type { LinkDay, SeenBy } from '@zetopsis/core/links';
import { type DurationMs, type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { addTo, eachMinute, nothing, type ReadDay, type ReadLine } from './read.ts';

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

/** The hours in which those were heard last that count nothing any more. `now`: what they counted up to the end of each minute. */
export function hoursOfLast(
  { upTo, requests, bytes }: Pick<ReadDay, 'upTo' | 'requests' | 'bytes'>,
  now: readonly ReadLine[],
): ReadonlySet<EpochMs> {
  const heard = new Set(
    now.flatMap(({ labels, values }) => (eachMinute(values).some((value) => value > 0) ? [lineKey(labels)] : [])),
  );
  return new Set(
    [...requests, ...bytes].flatMap((line) => {
      const last = heard.has(lineKey(line.labels)) ? null : lastSlot(line, upTo, FIVE);
      return last === null ? [] : [hourWith(last)];
    }),
  );
}
/** Of lines that say what was counted up to the end of each minute of an hour: when each counted something last. */
export function lastHeard(lines: readonly ReadLine[], end: EpochMs): ReadonlyMap<string, EpochMs> {
  return new Map(
    lines.flatMap(({ labels, values }) => {
      const each = eachMinute(values);
      const last = each.findLastIndex((value) => value > 0);
      return last < 0 ? [] : [[lineKey(labels), end - (each.length - 1 - last) * MINUTE] as const];
    }),
  );
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
