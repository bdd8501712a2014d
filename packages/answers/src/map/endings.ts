import type { LinkBirth } from '@zetopsis/core/links';
import { DAY, type EpochMs, HOUR } from '@zetopsis/core/units';
import { lastExactly } from './day.ts';
import { AT_ONCE, ends } from './pairs.ts';
import { addTo, nothing, type ReadDay, type ReadLine } from './read.ts';
import { tellerOf } from './tellers.ts';

const HOURS = 14 * 24;
/** When the hours of a fortnight end. */
export const hoursOfFortnight = (upTo: EpochMs): Float64Array =>
  Float64Array.from({ length: HOURS }, (_, i) => upTo - (HOURS - 1 - i) * HOUR);

/** What was counted in each hour of a fortnight, by pair and side. */
export interface ReadFortnight {
  /** The end of the last hour. */
  readonly upTo: EpochMs;
  readonly requests: readonly ReadLine[];
  readonly bytes: readonly ReadLine[];
}
/** A usual is known of so many days. */
const DAYS = 4;
const GONE_AFTER = 24;

/**
 * Pairs that are gone: they carried something on four days or more, and nothing any more for a day, and for longer than ever within the
 * fortnight, while who tells of them still told of others. `hours`: the minutes of the hours in which they were heard last.
 * Some at a time.
 */
export function* endingsOf(read: ReadFortnight, hours: ReadDay['hours']): Generator<void, LinkBirth[]> {
  let looked = 0;
  const tellers = new Map<string, Float64Array>();
  const pairs = new Map<string, { ending: LinkBirth; hours: Float64Array; teller: string }>();
  for (const what of ['requests', 'bytes'] as const)
    for (const line of read[what]) {
      const teller = tellerOf(line.labels, what);
      const all = tellers.get(teller) ?? nothing(HOURS);
      tellers.set(teller, all);
      addTo(all, line.values);
      const { from, to } = ends(line.labels);
      const key = JSON.stringify([from, to]);
      const known = pairs.get(key) ?? { ending: { from, to, at: 0 }, hours: nothing(HOURS), teller };
      addTo(known.hours, line.values);
      const at = lastExactly(line, { upTo: read.upTo, hours, slot: HOUR }) ?? 0;
      pairs.set(key, { ...known, ending: { from, to, at: Math.max(known.ending.at, at) } });
      if (++looked % AT_ONCE === 0) yield;
    }
  const endings: LinkBirth[] = [];
  for (const { ending, hours: own, teller } of pairs.values()) {
    const lately = tellers.get(teller)!.subarray(-GONE_AFTER); // it is one of them
    if (isGone(own, read.upTo) && lately.some((value) => value > 0)) endings.push(ending);
    if (++looked % AT_ONCE === 0) yield;
  }
  return endings;
}
function isGone(hours: Float64Array, upTo: EpochMs): boolean {
  const days = new Set<number>();
  let longest = 0;
  let pause = 0;
  for (const [i, value] of hours.entries())
    if (value > 0) {
      if (days.size > 0) longest = Math.max(longest, pause);
      days.add(Math.floor((upTo - (HOURS - i) * HOUR) / DAY));
      pause = 0;
    } else if (!Number.isNaN(value)) pause++;
  return days.size >= DAYS && pause >= GONE_AFTER && pause > longest;
}
