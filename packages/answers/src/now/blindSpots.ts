import type { ConnectionAnswer, DeliveryAnswer, EndpointAnswer, NowAnswer } from '@zetopsis/contract';
import { formatCount, formatDuration } from '@zetopsis/core/format';
import type { DurationMs, EpochMs } from '@zetopsis/core/units';

export type Spot = NowAnswer['blind'][number];

/** How Zetopsis itself is. */
export interface OwnState {
  readonly at: EpochMs;
  /** Why PostgreSQL does not take readings; null while it does. */
  readonly storeProblem: string | null;
  /** Errors that nobody caught: how many since the start, and when one came lately. */
  readonly unforeseen: { readonly count: number; readonly lately: EpochMs | null };
  /** When everything else waited for one thing, and for how long. */
  readonly stop: { readonly at: EpochMs; readonly ms: DurationMs } | null;
  /** Parts that ended within the last hour and were begun anew. */
  readonly anew: readonly {
    readonly what: string;
    readonly why: string;
    readonly at: EpochMs;
    readonly count: number;
  }[];
}

/** What is not read, not kept or not told, each cause once. */
export function blindSpots({
  connections,
  endpoints,
  own,
  dead,
}: {
  readonly connections: readonly ConnectionAnswer[];
  readonly endpoints: readonly EndpointAnswer[];
  readonly own: OwnState;
  readonly dead: readonly DeliveryAnswer[];
}): Spot[] {
  const blind = new Set(connections.filter(({ state }) => state === 'blind').map(({ name }) => name));
  return [
    ...connections.filter(({ state }) => state !== 'reading' && state !== 'connecting').map(connectionSpot),
    ...endpointSpots(endpoints.filter(({ connection }) => connection === null || !blind.has(connection))).map(
      ({ spot }) => spot,
    ),
    ...ownSpots(own),
    ...dead.map(({ to, subject, error, createdAt }) => ({
      what: `message to ${to}`,
      reason: `“${subject}” could not be delivered: ${error ?? 'no reason known'}`,
      since: createdAt,
      nextStep: 'Try it again under Rules.',
    })),
  ];
}

export const connectionSpot = ({ name, reason, state, since, nextStep }: ConnectionAnswer): Spot => ({
  what: name,
  reason: reason ?? state,
  since,
  nextStep,
});

/** One cause, one entry. */
export function endpointSpots(endpoints: readonly EndpointAnswer[]): { readonly cause: string; readonly spot: Spot }[] {
  const byCause = new Map<string, EndpointAnswer[]>();
  for (const endpoint of endpoints) {
    if (endpoint.state !== 'failing' && endpoint.state !== 'late') continue;
    const cause = `${endpoint.connection} ${endpoint.state} ${endpoint.lastError}`;
    byCause.set(cause, [...(byCause.get(cause) ?? []), endpoint]);
  }
  return [...byCause].flatMap(([cause, [first, ...others]]) => {
    if (!first) return [];
    const { connection, name, lastError, since } = first;
    const more = others.length === 0 ? '' : ` and ${others.length} more`;
    const spot = {
      what: `${connection === null ? '' : `${connection} › `}${name}${more}`,
      reason: lastError ?? 'its reading is late',
      since,
      nextStep: null,
    };
    return [{ cause, spot }];
  });
}

export function ownSpots({ at, storeProblem, unforeseen, stop, anew }: OwnState): Spot[] {
  const spots: Spot[] = [];
  if (storeProblem !== null)
    spots.push({
      what: 'Zetopsis’ own store',
      reason: `PostgreSQL does not take readings: ${storeProblem}`,
      since: at,
      nextStep: 'Readings wait in memory; see that PostgreSQL runs and has room.',
    });
  if (unforeseen.lately !== null)
    spots.push({
      what: 'Zetopsis itself',
      reason: `Something went wrong inside that nobody had foreseen (${formatCount(unforeseen.count, 'time')} since the start); the rest goes on.`,
      since: unforeseen.lately,
      nextStep: 'The server’s log says what, under “uncaught”. Report it with that line.',
    });
  if (stop !== null)
    spots.push({
      what: 'Zetopsis itself',
      reason: `One thing held up everything else for ${formatDuration(stop.ms)}: answers, readings and rules waited.`,
      since: stop.at,
      nextStep: 'Look at what was asked then; fewer pods in a window or a smaller scope take less at once.',
    });
  for (const { what, why, at: since, count } of anew)
    spots.push({
      what: 'Zetopsis itself',
      reason: `${what} ended${count === 1 ? '' : ` ${count} times within an hour`} (${why}) and was begun anew.`,
      since,
      nextStep: 'What it was doing is done again. If it happens again, the server’s log says more, under “begunAnew”.',
    });
  return spots;
}

/** What was not read at a past moment, from the gaps that lay over it. */
export function blindThen(
  gaps: readonly { readonly from: EpochMs; readonly to: EpochMs | null; readonly reason: string }[],
  at: EpochMs,
): Spot[] {
  const byReason = new Map<string, { since: EpochMs; endpoints: number }>();
  for (const { from, to, reason } of gaps) {
    if (to !== null && to <= at) continue;
    const own = byReason.get(reason);
    byReason.set(reason, { since: Math.min(own?.since ?? from, from), endpoints: (own?.endpoints ?? 0) + 1 });
  }
  return [...byReason].map(([reason, { since, endpoints }]) => ({
    what: formatCount(endpoints, 'node page'),
    reason,
    since,
    nextStep: null,
  }));
}
