import { toTheEnd } from '@zetopsis/core/steps';
import { HOUR, MINUTE } from '@zetopsis/core/units';
import { describe, expect, it } from 'vitest';
import { lastHeard, minutesOfHour } from './day.ts';
import { endingsOf, hoursOfFortnight } from './endings.ts';
import type { ReadLine } from './read.ts';

const UP_TO = 497_222 * HOUR;
const end = (workload: string) => ({ cluster: 'seaward', namespace: 'quay', workload: `deployment:${workload}` });
const labels = (from: string, to: string, seenBy = 'caller') => ({
  from_cluster: 'seaward',
  from_namespace: 'quay',
  from_workload: `deployment:${from}`,
  to_cluster: 'seaward',
  to_namespace: 'quay',
  to_workload: `deployment:${to}`,
  seen_by: seenBy,
});
/** What came in each hour, by how many hours before the end it ended. */
const line = (from: string, to: string, came: (ago: number) => number, seenBy = 'caller'): ReadLine => ({
  labels: labels(from, to, seenBy),
  values: Float64Array.from(hoursOfFortnight(UP_TO), (at) => came((UP_TO - at) / HOUR)),
});
const others = line('front', 'ledger', () => 60);
const gone = (...requests: ReadLine[]) =>
  toTheEnd(endingsOf({ upTo: UP_TO, requests, bytes: [] }, new Map())).map(({ from, to, at }) => [
    `${from.workload} ${to.workload}`,
    (UP_TO - at) / HOUR,
  ]);

describe('links that are gone', () => {
  it('carried something on four days, and nothing for a day and longer than ever', () => {
    const daily = (ago: number) => (ago % 24 < 10 ? 5 : 0);
    const lines = [
      others,
      line('front', 'notes', (ago) => (ago < 30 ? 0 : 5)),
      line('front', 'base', (ago) => (ago < 20 ? 0 : 5)),
      line('front', 'night', (ago) => (ago < 24 * 3 ? 0 : daily(ago))),
      // young, weekly, and what comes still
      line('front', 'young', (ago) => (ago < 30 || ago > 80 ? 0 : 5)),
      line('front', 'weekly', (ago) => (ago % (24 * 3) === 25 ? 5 : 0)),
      line('front', 'daily', daily),
    ];
    expect(gone(...lines)).toEqual([
      ['deployment:front deployment:notes', 30],
      ['deployment:front deployment:night', 72],
    ]);
    // of hours of which nothing is known nobody can say so
    const unread = (ago: number) => (ago < 10 ? Number.NaN : ago < 30 ? 0 : 5);
    expect(gone(others, line('front', 'notes', unread))).toEqual([]);
  });
  it('are none where the other side still tells of it, nor where nobody of its cluster tells anything any more', () => {
    const over = line('front', 'notes', (ago) => (ago < 30 ? 0 : 5));
    expect(
      gone(
        others,
        over,
        line('front', 'notes', () => 5, 'answerer'),
      ),
    ).toEqual([]);
    expect(
      gone(
        over,
        line('front', 'ledger', (ago) => (ago < 30 ? 0 : 60)),
      ),
    ).toEqual([]);
  });
  it('went in the minute in which they were heard last', () => {
    const over = line('front', 'notes', (ago) => (ago < 30 ? 0 : 5));
    const hour = UP_TO - 30 * HOUR;
    const minutes = minutesOfHour(hour);
    const counted = { labels: over.labels, values: minutes.map((at) => Math.min(at, hour - 17 * MINUTE)) };
    const hours = new Map([[hour, toTheEnd(lastHeard([counted], hour))]]);
    expect(toTheEnd(endingsOf({ upTo: UP_TO, requests: [others, over], bytes: [] }, hours))).toEqual([
      { from: end('front'), to: end('notes'), at: hour - 17 * MINUTE },
    ]);
  });
});
