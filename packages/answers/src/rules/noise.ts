import type { Severity } from '@zetopsis/core/findings';
import { type DurationMs, type EpochMs, HOUR, MINUTE, SECOND } from '@zetopsis/core/units';

/** What was kept of one alert, as far as noise is concerned. */
export interface PastAlert {
  /** The same for alerts about the same object. */
  readonly subject: string;
  readonly since: EpochMs;
  readonly raisedAt: EpochMs;
  readonly endedAt: EpochMs | null;
  /** When something of it was told. */
  readonly toldAt: readonly EpochMs[];
  readonly taken: boolean;
}
/** What a rule is set to that a suggestion changes. */
export interface Quietable {
  readonly holds: DurationMs;
  readonly clearsAfter: DurationMs;
}
export type Suggestion =
  /** Held for so long, so many of its alerts would not have been. */
  | { readonly is: 'hold longer'; readonly ms: DurationMs; readonly fewer: number }
  /** Cleared after so long, so many would have been one with the one before. */
  | { readonly is: 'clear later'; readonly ms: DurationMs; readonly fewer: number }
  /** Nobody ever took one. */
  | { readonly is: 'on trial' };
export interface Noise {
  readonly raised: number;
  readonly messages: number;
  readonly nights: number;
  /** Back within an hour of being over. */
  readonly flapping: number;
  /** Over within ten minutes. */
  readonly shortLived: number;
  readonly taken: number;
  readonly suggestion: Suggestion | null;
}

const FLAPS_WITHIN = HOUR;
const SHORT = 10 * MINUTE;
/** Fewer say nothing. */
const ENOUGH = 5;
const MANY = 20;

/** How loud a rule was, and what would have made it quieter: worked out from what it raised. */
export function noiseOf(
  alerts: readonly PastAlert[],
  { holds, clearsAfter }: Quietable,
  atNight: (at: EpochMs) => boolean,
): Noise {
  const told = alerts.flatMap(({ toldAt }) => toldAt);
  const gaps = gapsOf(alerts);
  const ended = alerts.filter(({ endedAt }) => endedAt !== null);
  const noise = {
    raised: alerts.length,
    messages: told.length,
    nights: told.filter(atNight).length,
    flapping: flapsAmong(gaps).length,
    shortLived: ended.filter(({ raisedAt, endedAt }) => endedAt! - raisedAt < SHORT).length,
    taken: alerts.filter(({ taken }) => taken).length,
  };
  return { ...noise, suggestion: suggestionFor(noise, { ended, gaps, holds, clearsAfter }) };
}

function suggestionFor(
  { raised, messages, flapping, shortLived, taken }: Omit<Noise, 'suggestion'>,
  of: Quietable & { readonly ended: readonly PastAlert[]; readonly gaps: readonly DurationMs[] },
): Suggestion | null {
  if (raised >= ENOUGH && shortLived * 2 >= raised) {
    const ms = roundedUp(of.holds + (middle(of.ended.map(({ raisedAt, endedAt }) => endedAt! - raisedAt)) ?? 0));
    const fewer = of.ended.filter(({ since, endedAt }) => endedAt! - since < ms).length;
    if (fewer > 0) return { is: 'hold longer', ms, fewer };
  }
  const short = flapsAmong(of.gaps);
  if (flapping >= ENOUGH) {
    const ms = roundedUp(of.clearsAfter + middle(short)!);
    return { is: 'clear later', ms, fewer: of.gaps.filter((gap) => gap + of.clearsAfter < ms).length };
  }
  return messages >= MANY && taken === 0 ? { is: 'on trial' } : null;
}
type Raised = Pick<PastAlert, 'subject' | 'raisedAt' | 'endedAt'>;
/** How often something was back within an hour of being over. */
export const flapsIn = (alerts: readonly Raised[]): number => flapsAmong(gapsOf(alerts)).length;
const flapsAmong = (gaps: readonly DurationMs[]) => gaps.filter((gap) => gap < FLAPS_WITHIN);
/** Between an alert about an object and the next about it. */
function gapsOf(alerts: readonly Raised[]): DurationMs[] {
  const last = new Map<string, EpochMs | null>();
  const gaps: DurationMs[] = [];
  for (const { subject, raisedAt, endedAt } of [...alerts].sort((a, b) => a.raisedAt - b.raisedAt)) {
    const before = last.get(subject);
    if (before != null) gaps.push(raisedAt - before);
    last.set(subject, endedAt);
  }
  return gaps;
}
const middle = (list: readonly number[]): number | null =>
  list.length === 0 ? null : [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;
/** To what people set: minutes, from ten on in fives. */
const roundedUp = (ms: DurationMs): DurationMs => {
  const step = ms <= 10 * MINUTE ? MINUTE : 5 * MINUTE;
  return (Math.floor(ms / step) + 1) * step;
};

/** A rule's document as it is suggested. */
export function quieted<
  T extends {
    readonly levels: Readonly<Record<Severity, { readonly holdsSeconds: number } | null>>;
    readonly clears: { readonly afterSeconds: number };
  },
>(document: T, suggestion: Exclude<Suggestion, { is: 'on trial' }>): T {
  const seconds = suggestion.ms / SECOND;
  if (suggestion.is === 'clear later') return { ...document, clears: { ...document.clears, afterSeconds: seconds } };
  const { warning, critical } = document.levels;
  const held = (level: typeof warning) => level && { ...level, holdsSeconds: seconds };
  return { ...document, levels: { warning: held(warning), critical: held(critical) } };
}
