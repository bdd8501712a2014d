import { formatClock, formatDuration } from '@zetopsis/core/format';
import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';
import type { WindowArgument } from '../state/viewQuery.ts';

export const PRESETS: readonly { readonly name: string; readonly length: number }[] = [
  { name: '15m', length: 15 * MINUTE },
  { name: '1h', length: HOUR },
  { name: '3h', length: 3 * HOUR },
  { name: '12h', length: 12 * HOUR },
  { name: '1d', length: DAY },
  { name: '3d', length: 3 * DAY },
  { name: '7d', length: 7 * DAY },
  { name: '30d', length: 30 * DAY },
];
const DEFAULT_WINDOW: WindowArgument = { length: 3 * HOUR };
const LONGEST = 90 * DAY;
const SHORTEST = MINUTE;

/** `window=3h` reaches to now and moves with it; `from` and `to` stand still. Anything unreadable is the default. */
export function readWindow(parameters: URLSearchParams): WindowArgument {
  const from = Number(parameters.get('from'));
  const to = Number(parameters.get('to'));
  if (
    Number.isSafeInteger(from) &&
    Number.isSafeInteger(to) &&
    from > 0 &&
    to - from >= SHORTEST &&
    to - from <= LONGEST
  )
    return { from, to };
  const match = /^(\d{1,4})([mhd])$/.exec(parameters.get('window') ?? '');
  if (!match) return DEFAULT_WINDOW;
  const length = Number(match[1]) * { m: MINUTE, h: HOUR, d: DAY }[match[2] as 'm' | 'h' | 'd']; // the pattern allows these
  return length >= SHORTEST && length <= LONGEST ? { length } : DEFAULT_WINDOW;
}

const exactLength = (length: number): string =>
  length % MINUTE === 0 ? shortLength(length) : `${Math.round(length / 1000)}s`;

/** "1d": the window a day earlier; "-3h": three hours later. Anything unreadable compares with nothing. */
export function readShift(text: string | null): number | null {
  const match = /^(-?)(\d{1,8})([smhd])$/.exec(text ?? '');
  if (!match) return null;
  const length = Number(match[2]) * { s: 1000, m: MINUTE, h: HOUR, d: DAY }[match[3] as 's' | 'm' | 'h' | 'd']; // the pattern allows these
  if (length === 0 || length > LONGEST) return null;
  return match[1] === '-' ? -length : length;
}
export const writeShift = (shift: number): string => `${shift < 0 ? '-' : ''}${exactLength(Math.abs(shift))}`;

/** What one mostly compares with. `length` is the window's. */
export const againstPresets = (length: number): { readonly name: string; readonly shift: number }[] => [
  { name: 'the window before', shift: length },
  { name: 'an hour earlier', shift: HOUR },
  { name: 'a day earlier', shift: DAY },
  { name: 'a week earlier', shift: 7 * DAY },
];

/** "the window before", "a day earlier", "42 min earlier". */
export function shiftInWords(shift: number, length: number): string {
  const preset = againstPresets(length).find((candidate) => candidate.shift === shift);
  if (preset) return preset.name;
  return `${formatDuration(Math.abs(shift))} ${shift > 0 ? 'earlier' : 'later'}`;
}

/** The two windows change places. One that ends about now goes on with the clock. */
export function swapWindows(
  window: WindowArgument,
  shift: number,
  now: number,
): { window: WindowArgument; shift: number } {
  const to = Math.round(endOf(window, now) - shift);
  const length = lengthOf(window);
  return {
    window: now - to < 2 * MINUTE ? { length } : { from: to - length, to },
    shift: -shift,
  };
}

/** Before and after a moment: as much after it as there is, at most a window's length, against as much before it. */
export function aroundMoment(at: number, length: number, now: number): { window: WindowArgument; shift: number } {
  const after = Math.max(MINUTE, Math.min(length, now - at));
  const whole = Math.floor(after / 1000) * 1000;
  return { window: { from: at, to: at + whole }, shift: whole };
}

const shortLength = (length: number): string =>
  length % DAY === 0
    ? `${length / DAY}d`
    : length % HOUR === 0
      ? `${length / HOUR}h`
      : `${Math.round(length / MINUTE)}m`;

export function writeWindow(window: WindowArgument): { window?: string; from?: string; to?: string } {
  return 'length' in window
    ? { window: shortLength(window.length) }
    : { from: String(window.from), to: String(window.to) };
}

export const lengthOf = (window: WindowArgument): number =>
  'length' in window ? window.length : window.to - window.from;
export const endOf = (window: WindowArgument, now: number): number => ('length' in window ? now : window.to);
export const startOf = (window: WindowArgument, now: number): number => endOf(window, now) - lengthOf(window);

/** One length back or forth; forth beyond now is now. */
export function stepWindow(window: WindowArgument, direction: -1 | 1, now: number): WindowArgument {
  const length = lengthOf(window);
  const to = endOf(window, now) + direction * length;
  return to >= now ? { length } : { from: Math.round(to - length), to: Math.round(to) };
}

/** The same end, another length. */
export function resizeWindow(window: WindowArgument, length: number): WindowArgument {
  return 'length' in window ? { length } : { from: window.to - length, to: window.to };
}

/**
 * What the tape shows around the window: at least three times its length, with the window at its end or in its middle;
 * wider where the window compared with then lies on it, too.
 */
export function tapeSpan(window: WindowArgument, now: number, shift: number | null = null): WindowArgument {
  const length = lengthOf(window);
  const fit = (least: number) =>
    PRESETS.map((preset) => preset.length).find((candidate) => candidate >= least && candidate >= 3 * HOUR) ??
    Math.min(LONGEST, least);
  const both = shift === null ? 0 : length + Math.abs(shift);
  // a window that would be a sliver beside one far away stays large; an arrow then says where the other one is
  const wanted = both > 12 * length ? fit(3 * length) : fit(Math.max(3 * length, both * 1.05));
  if ('length' in window) return { length: wanted };
  const middle = (window.from + window.to) / 2 - (both > 0 && both <= 12 * length ? (shift ?? 0) / 2 : 0);
  const to = Math.min(now, middle + wanted / 2);
  return to >= now - MINUTE ? { length: wanted } : { from: Math.round(to - wanted), to: Math.round(to) };
}

export function windowInWords(window: WindowArgument, now: number): string {
  const from = formatClock(startOf(window, now), now);
  const to = 'length' in window ? 'now' : formatClock(window.to, now);
  return `${from} – ${to}, ${formatDuration(lengthOf(window))}`;
}
