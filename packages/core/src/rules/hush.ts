import { type EpochMs, MINUTE } from '../units/index.ts';

export const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;
export type Weekday = (typeof WEEKDAYS)[number];

/** On these days from a time of day to another ("22:00"), into the next day where that is not later; 24 h where both are the same. */
export interface WeeklyHours {
  readonly zone: string;
  readonly days: readonly Weekday[];
  readonly from: string;
  readonly to: string;
}
/** When nobody is told. */
export type HushWhen =
  /** From one moment to another: ISO 8601 with an offset. */
  | { readonly is: 'once'; readonly from: string; readonly to: string }
  | ({ readonly is: 'weekly' } & WeeklyHours)
  /** While the node that it is about takes no new pods. */
  | { readonly is: 'maintenance' };

const MINUTES_OF_DAY = 24 * 60;
const minutesOf = (clock: string): number => {
  const [hours = 0, minutes = 0] = clock.split(':').map(Number);
  return hours * 60 + minutes;
};
/** Making one takes a while; there are few zones. */
const formats = new Map<string, Intl.DateTimeFormat>();
function localTime(at: EpochMs, zone: string): { readonly day: number; readonly minutes: number } {
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en-GB', {
      weekday: 'short',
      hour: '2-digit',
      minute: '2-digit',
      hourCycle: 'h23',
      timeZone: zone,
    });
    if (formats.size < 500) formats.set(zone, format);
  }
  const parts = new Map(format.formatToParts(at).map(({ type, value }) => [type, value]));
  return {
    day: (WEEKDAYS as readonly string[]).indexOf(parts.get('weekday') ?? ''),
    minutes: Number(parts.get('hour')) * 60 + Number(parts.get('minute')),
  };
}

/** Whether a hush holds at a moment; `inMaintenance`: whether the node that an alert is about takes no new pods. */
export function isHushed(when: HushWhen, at: EpochMs, inMaintenance: () => boolean): boolean {
  switch (when.is) {
    case 'once':
      return at >= Date.parse(when.from) && at < Date.parse(when.to);
    case 'maintenance':
      return inMaintenance();
    case 'weekly':
      return isWithinHours(when, at);
  }
}
/** Whether a moment lies in hours of the week. */
export function isWithinHours(hours: WeeklyHours, at: EpochMs): boolean {
  const { day, minutes } = localTime(at, hours.zone);
  const [from, to] = [minutesOf(hours.from), minutesOf(hours.to)];
  const on = (own: number) => hours.days.includes(WEEKDAYS[(own + 7) % 7]!);
  if (from < to) return on(day) && minutes >= from && minutes < to;
  // over midnight: begun today, or yesterday
  return (on(day) && minutes >= from) || (on(day - 1) && minutes < to);
}
/** Moments of a week are looked at so finely, where hours may begin or end. */
const LOOKED_AT = 5 * MINUTE;
const MOST_LOOKED_AT = 4000;
/** When it holds within a time, as far as a clock says it: a node's maintenance has none. Oldest first. */
export function hushedWithin(
  when: HushWhen,
  from: EpochMs,
  to: EpochMs,
): { readonly from: EpochMs; readonly to: EpochMs }[] {
  if (when.is === 'maintenance') return [];
  if (when.is === 'once') {
    const own = { from: Math.max(from, Date.parse(when.from)), to: Math.min(to, Date.parse(when.to)) };
    return own.to > own.from ? [own] : [];
  }
  const step = Math.max(LOOKED_AT, Math.ceil((to - from) / MOST_LOOKED_AT));
  const holds = (at: EpochMs) => isWithinHours(when, at);
  /** To the second, between two moments of which one lies within. */
  const edge = (before: EpochMs, after: EpochMs): EpochMs => {
    const last = holds(after);
    let [low, high] = [before, after];
    while (high - low > 1000) {
      const middle = (low + high) / 2;
      if (holds(middle) === last) high = middle;
      else low = middle;
    }
    return Math.round(high / 1000) * 1000;
  };
  const found: { from: EpochMs; to: EpochMs }[] = [];
  let begun: EpochMs | null = holds(from) ? from : null;
  for (let at = from; at < to; ) {
    const next = Math.min(at + step, to);
    if (holds(next) !== (begun !== null)) {
      const turn = edge(at, next);
      if (begun === null) begun = turn;
      else {
        found.push({ from: begun, to: turn });
        begun = null;
      }
    }
    at = next;
  }
  if (begun !== null && to > begun) found.push({ from: begun, to });
  return found;
}
/** Whether it can ever hold again after a moment. */
export const isOver = (when: HushWhen, at: EpochMs): boolean => when.is === 'once' && at >= Date.parse(when.to);
/** How long it holds in a week at most, in minutes; null where nobody can say. */
export function minutesAWeek(when: HushWhen): number | null {
  if (when.is !== 'weekly') return null;
  const [from, to] = [minutesOf(when.from), minutesOf(when.to)];
  return when.days.length * (from < to ? to - from : MINUTES_OF_DAY - from + to);
}

/** "Mon, Tue 22:00 to 06:00, Europe/Oslo". */
export const hoursWords = ({ days, from, to, zone }: WeeklyHours): string =>
  `${days.length === 7 ? 'every day' : days.join(', ')} ${from} to ${to}, ${zone}`;
/** `clock` says a moment. */
export function hushWords(when: HushWhen, clock: (at: EpochMs) => string): string {
  switch (when.is) {
    case 'once':
      return `${clock(Date.parse(when.from))} to ${clock(Date.parse(when.to))}`;
    case 'weekly':
      return hoursWords(when);
    case 'maintenance':
      return 'while a node takes no new pods';
  }
}
