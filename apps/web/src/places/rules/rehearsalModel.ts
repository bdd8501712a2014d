import type { RehearsalAnswer } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { DAY, type DurationMs, MINUTE } from '@zetopsis/core/units';

/** So many in a window as so many a week. */
export function perWeek(count: number, span: DurationMs): string {
  const weekly = (count * 7 * DAY) / Math.max(1, span);
  if (weekly === 0) return 'no';
  if (weekly < 1) return '< 1';
  return weekly < 10 ? String(Number(weekly.toFixed(1))) : String(Math.round(weekly));
}

interface Bar {
  /** Of the window, in percent. */
  readonly left: number;
  readonly width: number;
  readonly severity: Severity;
  readonly words: string;
}
const MOST_ROWS = 12;
/** A row for each object that would have been raised, those that were longest first. */
export function timelineOf({
  raised,
  from,
  to,
}: Pick<RehearsalAnswer, 'raised' | 'from' | 'to'>): { name: string; bars: Bar[] }[] {
  const span = Math.max(1, to - from);
  const rows = new Map<string, { name: string; bars: Bar[]; ms: number }>();
  for (const { name, path, severity, raisedAt, endedAt } of raised) {
    const key = `${path.join('/')} ${name}`;
    const row = rows.get(key) ?? { name, bars: [], ms: 0 };
    rows.set(key, row);
    const ms = (endedAt ?? to) - raisedAt;
    row.ms += ms;
    row.bars.push({
      left: ((raisedAt - from) / span) * 100,
      width: (ms / span) * 100,
      severity,
      words: `${formatClock(raisedAt, to)}, for ${formatDuration(ms)}`,
    });
  }
  return [...rows.values()]
    .sort((a, b) => b.ms - a.ms)
    .slice(0, MOST_ROWS)
    .map(({ name, bars }) => ({ name, bars }));
}

/** What two drafts would have come to, row by row; the second is asked for yet where it is null. */
export function comparedRows(
  one: RehearsalAnswer,
  other: RehearsalAnswer | null,
): { readonly name: string; readonly one: string; readonly other: string }[] {
  const rows: [string, (of: RehearsalAnswer) => string][] = [
    ['over', ({ from, to }) => formatDuration(to - from)],
    ['objects', ({ objects }) => String(objects)],
    ['alerts a week', ({ raised, left, from, to }) => perWeek(raised.length + left, to - from)],
    ['messages, at night', ({ messages }) => `${messages.all}, ${messages.nights}`],
    ['raised for', ({ raisedMinutes }) => formatDuration(raisedMinutes * MINUTE)],
    ['back within an hour', ({ flapping }) => String(flapping)],
    ['trouble missed', (of) => missedWords(of)],
  ];
  return rows.map(([name, words]) => ({
    name,
    one: words(one),
    other: other === null ? 'not looked at yet' : words(other),
  }));
}
/** "1 of 3". */
export const missedWords = ({ troubles }: Pick<RehearsalAnswer, 'troubles'>): string =>
  troubles.length === 0
    ? 'there was none'
    : `${troubles.filter(({ lead }) => lead === null).length} of ${troubles.length}`;
/** How long before a trouble began it would have been raised. */
export const leadWords = (lead: DurationMs | null): string =>
  lead === null
    ? 'missed'
    : lead >= MINUTE
      ? `${formatDuration(lead)} before it`
      : lead > -MINUTE
        ? 'as it began'
        : `${formatDuration(-lead)} after it began`;
