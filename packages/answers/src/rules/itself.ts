import { type DeliveryAnswer, EVERYTHING } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { formatCount, formatDuration } from '@zetopsis/core/format';
import type { DurationMs, EpochMs } from '@zetopsis/core/units';
import { type OwnState, ownSpots } from '../now/index.ts';
import type { Occurrence } from './occurrences.ts';

/** What a rule about Zetopsis looks at, beside what Now says of it. */
export interface OwnHealth {
  readonly own: OwnState;
  readonly dead: readonly DeliveryAnswer[];
  /** Readings given up since the start. */
  readonly lost: number;
  /** Series that are past a limit. */
  readonly refused: number;
  /** The oldest reading that is not packed. */
  readonly lag: DurationMs;
  /** Rules that cannot be judged, with the reason. */
  readonly unjudged: readonly { readonly name: string; readonly problem: string }[];
  /** Rules whose judging costs more than a rule may. */
  readonly costly: readonly { readonly name: string; readonly tookMs: number }[];
}
/** Readings are packed each hour or two; what is much older is stuck. */
const LAG = 4 * 3_600_000;

/** What is not well with Zetopsis itself, each cause once. */
export function* ownOccurrences({ own, dead, lost, refused, lag, unjudged, costly }: OwnHealth): Generator<Occurrence> {
  const one = (
    key: string,
    name: string,
    reason: string,
    {
      severity = 'warning',
      since = own.at,
      nextStep = 'The server’s log says more.',
    }: { readonly severity?: Severity; readonly since?: EpochMs | null; readonly nextStep?: string | null } = {},
  ): Occurrence => ({
    key,
    path: EVERYTHING,
    name,
    severity,
    // what it has not told since when it is so, is so now
    from: Math.min(since ?? own.at, own.at),
    to: null,
    reason,
    evidence: '',
    nextStep: nextStep ?? '',
    chosen: true,
  });
  for (const { what, reason, since, nextStep } of ownSpots(own))
    yield one(`${what} ${reason.split(/[:(;]/)[0]}`, what, reason, {
      severity: own.storeProblem !== null && what === 'Zetopsis’ own store' ? 'critical' : 'warning',
      since,
      nextStep,
    });
  if (lost > 0)
    yield one('lost', 'readings', `${formatCount(lost, 'reading')} were given up since the start.`, {
      severity: 'critical',
      nextStep: 'See that PostgreSQL runs and has room.',
    });
  if (lag > LAG) yield one('lag', 'the store', `Its oldest reading has waited ${formatDuration(lag)} to be packed.`);
  if (refused > 0)
    yield one('refused', 'series', `${formatCount(refused, 'series', 'series')} are past a limit and are not kept.`, {
      nextStep: 'Sources, Census says whose they are.',
    });
  const [letter] = dead;
  if (letter !== undefined)
    yield one(
      'dead',
      'messages',
      `${formatCount(dead.length, 'message')} could not be delivered: “${letter.subject}” to ${letter.to}.`,
      {
        severity: 'critical',
        since: letter.createdAt,
        nextStep: 'Rules, Messages: try them again when whoever takes them is back.',
      },
    );
  for (const { name, problem } of unjudged)
    yield one(`unjudged ${name}`, `the rule “${name}”`, `It cannot be judged: ${problem}`, {
      nextStep: 'Its page says what is wrong with it.',
    });
  for (const { name, tookMs } of costly)
    yield one(`costly ${name}`, `the rule “${name}”`, `Judging it once takes ${formatDuration(tookMs)}.`, {
      nextStep: 'Judge it less often, or give it fewer objects.',
    });
}
