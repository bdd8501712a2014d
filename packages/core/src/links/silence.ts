import { type EpochMs, MINUTE } from '../units/index.ts';

/** What a link carried over the day before: silence outlasts the hour that its course is of. */
export interface LinkDay {
  /** Requests, or bytes where only those are known, of each five minutes. NaN: nothing was told. */
  readonly fives: Float64Array;
  /** The end of the last of them. */
  readonly upTo: EpochMs;
  /** The end of the last minute with something, where it is before the course; null: only its five minutes are known. */
  readonly lastAt: EpochMs | null;
}
export interface Heard {
  /** Minute by minute. NaN: nothing was told. */
  readonly minutes: Float64Array;
  readonly day: LinkDay | null;
  /** What is usual at this hour, whatever its unit; null: that is not known. */
  readonly typical: number | null;
}

const SILENT_AFTER = 10;
/** What happens less often than once in so many looks is no chance: a night has some thousands of them. */
const CHANCE = 1e-6;
/** Where nothing was told for so many minutes, nothing is known. */
const BLIND_AFTER = 2;
/** What came in fewer minutes, or fives of a day, has no usual that it could fall short of. */
const ENOUGH_MINUTES = 10;
const ENOUGH_FIVES = 6;
/** A day of which so many fives are known says how long pauses are. */
const KNOWN_FIVES = 36;
const FIVE = 5;

/** Slots with something and the pauses between them, in slots. */
interface Rhythm {
  /** Slots with something. */
  readonly active: number;
  /** Known and empty, before the first of them. */
  readonly leading: number;
  readonly pauses: readonly number[];
  /** Empty ones since the last. */
  readonly pause: number;
  /** The place of the last with something; -1: there is none. */
  readonly last: number;
  /** Of the last ones, those of which nothing was told. */
  readonly unknown: number;
}
function rhythmOf(slots: Float64Array, end: number): Rhythm {
  const pauses: number[] = [];
  const seen = { active: 0, leading: 0, pause: 0, last: -1, unknown: 0 };
  for (let i = 0; i < end; i++) {
    const value = slots[i]!;
    if (Number.isNaN(value)) {
      // nothing was told of it: that is no pause
      seen.unknown++;
      continue;
    }
    seen.unknown = 0;
    if (value > 0) {
      if (seen.last >= 0) pauses.push(seen.pause);
      seen.active++;
      seen.last = i;
      seen.pause = 0;
    } else if (seen.last >= 0) seen.pause++;
    else seen.leading++;
  }
  return { ...seen, pauses };
}
/** In a quiet night what comes now and then stays away for long by itself: of so many slots before, in these there was something. */
function mayBeChance(pause: number, { active, pauses }: Pick<Rhythm, 'active' | 'pauses'>): boolean {
  const before = active + pauses.reduce((sum, own) => sum + own, 0);
  const share = active / before;
  const atLeast = Math.max(0, share - 2 * Math.sqrt((share * (1 - share)) / before));
  return (1 - atLeast) ** pause > CHANCE;
}
const second = (pauses: readonly number[]): number => [...pauses].sort((a, b) => b - a)[1] ?? 0;

/**
 * When the last request was, where nothing came for longer than its second longest pause and ten minutes more; null: it is not silent.
 * Of a day whose hours are not known from other days, its longest pause counts, the quiet at its beginning too: that may be its nights.
 * `end`: so many minutes are looked at, up to `at`.
 */
export function silentSince({ minutes, day, typical }: Heard, end: number, at: EpochMs): EpochMs | null {
  const hour = rhythmOf(minutes, end);
  if (hour.unknown > BLIND_AFTER || typical === 0) return null;
  const longBefore = day === null ? null : dayBefore(day, at - end * MINUTE);
  const enough = hour.active >= ENOUGH_MINUTES;
  const lastHeard = hour.last < 0 ? null : at - (end - 1 - hour.last) * MINUTE;
  if (longBefore === null) {
    const isSilent = enough && hour.pause > second(hour.pauses) + SILENT_AFTER && !mayBeChance(hour.pause, hour);
    return isSilent ? lastHeard : null;
  }
  const { rhythm, last } = longBefore;
  if (!enough && rhythm.active < ENOUGH_FIVES) return null;
  const heard = lastHeard ?? last;
  if (heard === null) return null;
  // what was not told of is no pause
  const pause = lastHeard === null ? (at - heard) / MINUTE : hour.pause;
  // between two fives with something there are up to five minutes more
  const pauses = [...rhythm.pauses.map((own) => (own === 0 ? 0 : own * FIVE + FIVE)), ...hour.pauses];
  if (hour.last >= 0 && rhythm.last >= 0) pauses.push(rhythm.pause * FIVE + hour.leading);
  const usual = typical === null ? Math.max(0, rhythm.leading * FIVE, ...pauses) : second(pauses);
  if (pause <= usual + SILENT_AFTER) return null;
  return (enough ? mayBeChance(hour.pause, hour) : mayBeChance(Math.floor(pause / FIVE), rhythm)) ? null : heard;
}
/** What is known of the time before a moment; null: too little of it. */
function dayBefore(day: LinkDay, from: EpochMs): { readonly rhythm: Rhythm; readonly last: EpochMs | null } | null {
  const { fives, upTo, lastAt } = day;
  const begins = (i: number) => upTo - (fives.length - i) * FIVE * MINUTE;
  let end = fives.length;
  while (end > 0 && begins(end - 1) >= from) end--;
  const rhythm = rhythmOf(fives, end);
  let known = 0;
  for (let i = 0; i < end; i++) if (!Number.isNaN(fives[i]!)) known++;
  if (known < KNOWN_FIVES) return null;
  const last = rhythm.last < 0 ? null : Math.min(from, lastAt ?? begins(rhythm.last + 1));
  return { rhythm, last };
}
/** A gap is longer than twice its third longest pause, and so many minutes more: what comes oftener is a rhythm. */
const STANDS_OUT = 3;
const MOST_GAPS = 2;
/**
 * Of what many tell together: 1 for each minute within a gap that stands out of all its pauses and that chance does not explain. Whoever
 * tells it was not heard then.
 */
export function gapsIn(minutes: Float64Array): Uint8Array {
  const runs: { from: number; length: number }[] = [];
  let active = 0;
  for (let i = 0; i < minutes.length; i++) {
    const value = minutes[i]!;
    if (value > 0) active++;
    if (!(value === 0)) continue;
    const last = runs.at(-1);
    if (last && last.from + last.length === i) last.length++;
    else runs.push({ from: i, length: 1 });
  }
  const gaps = new Uint8Array(minutes.length);
  if (active < ENOUGH_MINUTES) return gaps;
  const longest = runs.sort((a, b) => b.length - a.length);
  const usual = longest[MOST_GAPS]?.length ?? 0;
  const pauses = longest.slice(MOST_GAPS).map(({ length }) => length);
  for (const { from, length } of longest.slice(0, MOST_GAPS))
    if (length > 2 * usual + STANDS_OUT && !mayBeChance(length, { active, pauses })) gaps.fill(1, from, from + length);
  return gaps;
}
/** Per second, in the quieter of the fives that carried something; null: none did. */
export function rateOfDay({ fives }: LinkDay): number | null {
  const some = [...fives].filter((value) => value > 0).sort((a, b) => a - b);
  return some.length === 0 ? null : some[Math.floor(some.length / 4)]! / (FIVE * 60);
}
