import type { RunningOutLine } from '@zetopsis/contract';
import { formatBytes, formatCores, formatDuration, formatPercent } from '@zetopsis/core/format';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const LONGEST = 90 * DAY;
export const TICKS = [
  { after: 6 * HOUR, word: '6 h' },
  { after: DAY, word: '1 d' },
  { after: 7 * DAY, word: '7 d' },
  { after: 30 * DAY, word: '30 d' },
] as const;

/** Where a time from now stands on the axis, 0 to 1: what is near has as much room as what is far. */
export const horizonAt = (after: number): number =>
  Math.min(1, Math.max(0, Math.log(Math.max(after, HOUR) / HOUR) / Math.log(LONGEST / HOUR)));

/** Whole hours, or whole days. */
const roughly = (time: number): number =>
  time < 2 * DAY ? Math.max(HOUR, Math.floor(time / HOUR) * HOUR) : Math.floor(time / DAY) * DAY;

const amount = ({ unit }: RunningOutLine, value: number | null): string =>
  unit === 'bytes'
    ? formatBytes(value)
    : unit === 'cores'
      ? formatCores(value)
      : value === null
        ? 'not read'
        : String(Math.round(value * 10) / 10);

export const useWords = (line: RunningOutLine): string =>
  `${amount(line, line.use)} of ${amount(line, line.limit)} ${line.limitIs}${line.use === null ? '' : `, ${formatPercent(line.use / line.limit)}`}`;

/** "in about 4 d; in 8 of 10 cases between 3 d and 6 d" */
export function runningOutWords({ outcome }: RunningOutLine, now: number): string {
  const away = (at: number) => formatDuration(Math.max(0, at - now));
  switch (outcome.is) {
    case 'date':
      return `in about ${away(outcome.at)}; in 8 of 10 cases between ${away(outcome.earliest)} and ${outcome.latest === null ? 'more than 90 d' : away(outcome.latest)}`;
    case 'now':
      return 'it is at its limit now';
    case 'later':
      return outcome.within >= LONGEST
        ? 'not within 90 days'
        : `not within ${formatDuration(roughly(outcome.within))}, as far as its history tells`;
    case 'unknown':
      return 'too little is known yet to say when';
  }
}
export const shortWords = ({ outcome }: RunningOutLine, now: number): string =>
  outcome.is === 'date' ? `≈ ${formatDuration(Math.max(0, outcome.at - now))}` : outcome.is === 'now' ? 'now' : '–';
