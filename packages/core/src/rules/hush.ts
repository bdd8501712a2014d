import type { EpochMs } from '../units/index.ts';

export const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;
export type Weekday = (typeof WEEKDAYS)[number];

/** When nobody is told. */
export type HushWhen =
  /** From one moment to another: ISO 8601 with an offset. */
  | { readonly is: 'once'; readonly from: string; readonly to: string }
  /** On these days from a time of day to another, into the next day where that is not later; 24 h where both are the same. */
  | {
      readonly is: 'weekly';
      readonly zone: string;
      readonly days: readonly Weekday[];
      /** "22:00". */
      readonly from: string;
      readonly to: string;
    }
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
    case 'weekly': {
      const { day, minutes } = localTime(at, when.zone);
      const [from, to] = [minutesOf(when.from), minutesOf(when.to)];
      const on = (own: number) => when.days.includes(WEEKDAYS[(own + 7) % 7]!);
      if (from < to) return on(day) && minutes >= from && minutes < to;
      // over midnight: begun today, or yesterday
      return (on(day) && minutes >= from) || (on(day - 1) && minutes < to);
    }
  }
}
/** Whether it can ever hold again after a moment. */
export const isOver = (when: HushWhen, at: EpochMs): boolean => when.is === 'once' && at >= Date.parse(when.to);
/** How long it holds in a week at most, in minutes; null where nobody can say. */
export function minutesAWeek(when: HushWhen): number | null {
  if (when.is !== 'weekly') return null;
  const [from, to] = [minutesOf(when.from), minutesOf(when.to)];
  return when.days.length * (from < to ? to - from : MINUTES_OF_DAY - from + to);
}

/** "Mon, Tue 22:00 to 06:00, Europe/Oslo". `clock` says a moment. */
export function hushWords(when: HushWhen, clock: (at: EpochMs) => string): string {
  switch (when.is) {
    case 'once':
      return `${clock(Date.parse(when.from))} to ${clock(Date.parse(when.to))}`;
    case 'weekly':
      return `${when.days.length === 7 ? 'every day' : when.days.join(', ')} ${when.from} to ${when.to}, ${when.zone}`;
    case 'maintenance':
      return 'while a node takes no new pods';
  }
}
