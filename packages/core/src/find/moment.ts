import { DAY, type EpochMs } from '../units/index.ts';

/**
 * A moment as somebody types it: "03:12" (the last time it was so), "yesterday 03:12", "24 nov 03:12", "2026-11-24 03:12",
 * "2 h ago", "40 min ago". Null when it is none, or lies in the future. `at` makes a local time from its parts.
 */
export function readMoment(
  typed: string,
  now: EpochMs,
  at: (year: number, month: number, day: number, hour: number, minute: number) => EpochMs,
): EpochMs | null {
  const text = typed.trim().toLowerCase();
  const past = (time: EpochMs) => (Number.isFinite(time) && time <= now ? time : null);
  const ago = /^(\d{1,4}) ?(min|m|h|hours?|d|days?) ago$/.exec(text);
  if (ago) {
    const unit = ago[2]!.startsWith('m') ? 60_000 : ago[2]!.startsWith('h') ? 3_600_000 : DAY;
    return past(now - Number(ago[1]) * unit);
  }
  const clock = /(\d{1,2}):(\d{2})$/.exec(text);
  if (!clock) return null;
  const [hour, minute] = [Number(clock[1]), Number(clock[2])];
  if (hour > 23 || minute > 59) return null;
  const day = text.slice(0, clock.index).trim();
  const today = new Date(now);
  const on = (offset: number) => {
    const date = new Date(now - offset * DAY);
    return at(date.getFullYear(), date.getMonth(), date.getDate(), hour, minute);
  };
  if (day === '' || day === 'today') return past(on(0)) ?? (day === '' ? past(on(1)) : null);
  if (day === 'yesterday') return past(on(1));
  const iso = /^(\d{4})-(\d{2})-(\d{2})t?$/.exec(day);
  if (iso) return past(at(Number(iso[1]), Number(iso[2]) - 1, Number(iso[3]), hour, minute));
  const named = /^(\d{1,2})\.? ([a-z]{3})[a-z]*(?: (\d{4}))?$/.exec(day);
  const month = named ? MONTHS.indexOf(named[2]!) : -1;
  if (!named || month < 0) return null;
  const year = named[3] === undefined ? today.getFullYear() : Number(named[3]);
  const time = at(year, month, Number(named[1]), hour, minute);
  // "28 dec" in January is of the year before
  return past(time) ?? (named[3] === undefined ? past(at(year - 1, month, Number(named[1]), hour, minute)) : null);
}
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
