import { formatClock, formatDuration } from '@zetopsis/core/format';
import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';
import type { WindowArgument } from '../state/placesApi.ts';

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

/** What the tape shows around the window: at least three times its length, with the window at its end or in its middle. */
export function tapeSpan(window: WindowArgument, now: number): WindowArgument {
  const length = lengthOf(window);
  const wanted =
    PRESETS.map((preset) => preset.length).find((candidate) => candidate >= 3 * length && candidate >= 3 * HOUR) ??
    Math.min(LONGEST, 3 * length);
  if ('length' in window) return { length: wanted };
  const to = Math.min(now, window.to + (wanted - length) / 2);
  return to >= now - MINUTE ? { length: wanted } : { from: Math.round(to - wanted), to: Math.round(to) };
}

export function windowInWords(window: WindowArgument, now: number): string {
  const from = formatClock(startOf(window, now), now);
  const to = 'length' in window ? 'now' : formatClock(window.to, now);
  return `${from} – ${to}, ${formatDuration(lengthOf(window))}`;
}
