import { DAY, type DurationMs, type EpochMs, HOUR, MINUTE, type Resource, SECOND } from '../units/index.ts';

export { readDuration, writeDuration } from './duration.ts';

/** The one place where numbers and times become words (design/look.md, "Numbers"). Missing is an en dash. */
export const MISSING = '–';

const threeDigits = (value: number): string => {
  const size = Math.abs(value);
  if (size >= 100) return value.toFixed(0);
  if (size >= 10) return value.toFixed(1);
  return value.toFixed(2);
};

/** Cores with two decimals, millicores below 0.1: "2.98 cores", "45 millicores". */
export function formatCores(cores: number | null, withUnit = true): string {
  if (cores === null || Number.isNaN(cores)) return MISSING;
  if (cores !== 0 && Math.abs(cores) < 0.1) return `${(cores * 1000).toFixed(0)}${withUnit ? ' millicores' : 'm'}`;
  const text = Math.abs(cores) >= 100 ? cores.toFixed(0) : Math.abs(cores) >= 10 ? cores.toFixed(1) : cores.toFixed(2);
  return withUnit ? `${text} ${text === '1.00' ? 'core' : 'cores'}` : text;
}

const BYTE_UNITS = ['B', 'KiB', 'MiB', 'GiB', 'TiB', 'PiB', 'EiB'];

/** Binary units, at most three significant digits: "1.86 GiB". */
export function formatBytes(bytes: number | null): string {
  if (bytes === null || Number.isNaN(bytes)) return MISSING;
  let unit = 0;
  let value = bytes;
  while (Math.abs(value) >= 999.5 && unit < BYTE_UNITS.length - 1) {
    value /= 1024;
    unit++;
  }
  return `${unit === 0 ? value.toFixed(0) : threeDigits(value)} ${BYTE_UNITS[unit]}`;
}

export function formatAmount(resource: Resource, value: number | null): string {
  return resource === 'cpu' ? formatCores(value) : formatBytes(value);
}

/** A share as a percentage: no decimals unless below 10. The caller names the denominator. */
export function formatPercent(share: number | null): string {
  if (share === null || Number.isNaN(share)) return MISSING;
  const percent = share * 100;
  if (percent === 0) return '0 %';
  return `${Math.abs(percent) < 9.95 ? percent.toFixed(1) : percent.toFixed(0)} %`;
}

/** As a person would say it: "12 s", "12 min", "3 h 05", "2 d 4 h". */
export function formatDuration(duration: DurationMs | null): string {
  if (duration === null || Number.isNaN(duration)) return MISSING;
  const length = Math.max(0, duration);
  if (length < SECOND) return `${Math.round(length)} ms`;
  if (length < 90 * SECOND) return `${Math.round(length / SECOND)} s`;
  if (length < 90 * MINUTE && length !== HOUR) return `${Math.round(length / MINUTE)} min`;
  if (length < 2 * DAY) {
    const minutes = Math.round(length / MINUTE);
    const rest = minutes % 60;
    return rest === 0
      ? `${Math.floor(minutes / 60)} h`
      : `${Math.floor(minutes / 60)} h ${String(rest).padStart(2, '0')}`;
  }
  const hours = Math.round(length / HOUR);
  return hours % 24 === 0 ? `${hours / 24} d` : `${Math.floor(hours / 24)} d ${hours % 24} h`;
}

/** How long an answer took, at most three significant digits: "0.4 ms", "84 ms", "1.24 s". */
export function formatLatency(seconds: number | null): string {
  if (seconds === null || Number.isNaN(seconds)) return MISSING;
  if (seconds >= 0.9995) return `${threeDigits(seconds)} s`;
  const millis = seconds * 1000;
  return `${millis >= 9.95 || millis === 0 ? millis.toFixed(0) : millis.toFixed(1)} ms`;
}

/** So many a second, at most three significant digits: "8.42 per s", "142 per s". */
export const formatRate = (perSecond: number | null): string =>
  perSecond === null || Number.isNaN(perSecond)
    ? MISSING
    : `${perSecond === 0 ? '0' : perSecond < 0.00995 ? perSecond.toPrecision(2) : threeDigits(perSecond)} per s`;

export function formatCount(count: number, one: string, many = `${one}s`): string {
  return `${count} ${count === 1 ? one : many}`;
}

/** Making a format takes a hundred times as long as using it; there are few zones. */
const clocks = new Map<string, { readonly time: Intl.DateTimeFormat; readonly day: Intl.DateTimeFormat }>();
const MOST_CLOCKS = 500;
function clockOf(zone: string | undefined, seconds: boolean) {
  const key = `${zone ?? ''} ${seconds}`;
  const held = clocks.get(key);
  if (held) return held;
  const where = zone === undefined ? {} : { timeZone: zone };
  const second = seconds ? { second: '2-digit' as const } : {};
  const made = {
    time: new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', ...second, ...where }),
    day: new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', ...where }),
  };
  if (clocks.size < MOST_CLOCKS) clocks.set(key, made);
  return made;
}

/** Wall-clock time in a zone; the day is added when it is not the day of `now`. */
export function formatClock(at: EpochMs, now: EpochMs, options: { seconds?: boolean; zone?: string } = {}): string {
  const { time, day } = clockOf(options.zone, options.seconds === true);
  const dayOfAt = day.format(at);
  return dayOfAt === day.format(now) ? time.format(at) : `${dayOfAt} ${time.format(at)}`;
}

const bareNumber = new Intl.NumberFormat('en-GB', { maximumFractionDigits: 4, maximumSignificantDigits: 9 });
/** A bare number as it is, to at most four figures behind the point. */
export const formatNumber = (value: number | null): string => (value === null ? '–' : bareNumber.format(value));
