import { type EpochMs, MINUTE } from '../units/index.ts';
import { type LinkDay, rateOfDay, silentSince } from './silence.ts';

/** What is the matter with a link; the first that applies names it. */
export const LINK_STATES = ['refused', 'silent', 'failing', 'slow', 'flooded'] as const;
export type LinkState = (typeof LINK_STATES)[number];

/** One link, minute by minute: the last one ends at the moment of the judgement. */
export interface LinkCourse {
  /** Of the caller, else of the answerer. NaN: nothing was read. */
  readonly requests: Float64Array;
  readonly failures: Float64Array;
  readonly refused: Float64Array;
  /** 95th percentile over the last five minutes, s, each five minutes; the last one ends at the moment. NaN: nothing was asked. */
  readonly p95: Float64Array;
  /** Where machines count them: bytes, both ways. They judge where no request is told of. */
  readonly bytes?: Float64Array | null;
  /** Of the same as judges, the day before; null: that is not read. */
  readonly day?: LinkDay | null;
}
/** What was usual at this hour on other days; null: there are not four of them. */
export interface LinkUsual {
  /** Upper band, per second. */
  readonly requests: number | null;
  /** The median; none of who was never counted. */
  readonly typical?: number | null;
  readonly failureShare: number | null;
  readonly refusedShare: number | null;
  /** s. */
  readonly p95: number | null;
  /** Upper band of bytes per second; none of who was never counted. */
  readonly bytes?: number | null;
}
export interface LinkJudgement {
  readonly state: LinkState | null;
  /** Whether rates are of requests or of bytes. */
  readonly by: 'requests' | 'bytes';
  /** What speaks for it, in figures; the unit is the state's. */
  readonly now: number;
  readonly usual: number | null;
  /** Against this hour of other days, or the window before. */
  readonly against: 'this hour' | 'the time before';
  /** When it began: of silence, its last request. */
  readonly since: EpochMs | null;
}
export const LOOKS_BACK = 65;
const FIVE = 5;
/** So many within five minutes, or nothing is said of shares and lengths. */
const ENOUGH = 20;

const sum = (values: Float64Array, from: number, to: number): number => {
  let all = 0;
  for (let i = Math.max(0, from); i < to; i++) if (!Number.isNaN(values[i]!)) all += values[i]!;
  return all;
};
/** Per second, of the minutes of which anything is told; NaN where nothing is. */
export function perSecond(values: Float64Array): number {
  const known = values.filter((value) => !Number.isNaN(value));
  return known.length === 0 ? Number.NaN : sum(known, 0, known.length) / (known.length * 60);
}
const lastFive = (values: Float64Array, end: number): Float64Array => values.subarray(Math.max(0, end - FIVE), end);
interface Window {
  readonly requests: number;
  readonly failures: number;
  readonly refused: number;
  /** Of requests that did not fail, per second. */
  readonly carried: number;
  readonly rate: number;
}
const windowAt = ({ requests, failures, refused }: LinkCourse, end: number): Window => ({
  requests: sum(requests, end - FIVE, end),
  failures: sum(failures, end - FIVE, end),
  refused: sum(refused, end - FIVE, end),
  rate: perSecond(lastFive(requests, end)) || 0,
  carried: (perSecond(lastFive(requests, end)) || 0) - (perSecond(lastFive(failures, end)) || 0),
});

/** By the five minutes that end so many minutes before the course does: in two judgements in a row, or not at all. */
export function judgeLink(course: LinkCourse, usual: LinkUsual, at: EpochMs): LinkJudgement {
  const end = course.requests.length;
  const bytes = course.bytes && course.requests.every(Number.isNaN) ? course.bytes : null;
  const judged = (to: number, moment: EpochMs) =>
    bytes === null
      ? judgedAt(course, usual, to, moment)
      : judgedByBytes({ bytes, day: course.day ?? null }, usual.bytes ?? null, to, moment);
  const last = judged(end, at);
  const before = judged(end - 1, at - MINUTE);
  return last.state !== null && last.state !== before.state ? { ...last, state: null } : last;
}

/** What began within the hour is no usual, even where it has lasted for most of it: its lower quarter, not its top. */
const quiet = (values: readonly number[]) =>
  values.length < 2 ? null : [...values].sort((a, b) => a - b)[Math.floor(values.length / 4)]!;

function judgedAt(course: LinkCourse, usual: LinkUsual, end: number, at: EpochMs): LinkJudgement {
  const now = windowAt(course, end);
  const past = before(course, end);
  const against = usual.requests === null ? 'the time before' : 'this hour';
  const said = (state: LinkState | null, value: number, band: number | null, since: EpochMs | null = null) => ({
    state,
    now: value,
    usual: band,
    against: against as LinkJudgement['against'],
    by: 'requests' as const,
    since,
  });
  const failureBand = usual.failureShare ?? past.failureShare;
  const refusedBand = usual.refusedShare ?? past.refusedShare;
  if (now.requests >= ENOUGH) {
    const share = now.refused / now.requests;
    if (now.refused >= 5 && share > refusedBand + 0.02)
      return said('refused', share, refusedBand, past.refusedSince(at));
  }
  const day = course.day ?? null;
  const silent = silentSince({ minutes: course.requests, day, typical: usual.typical ?? null }, end, at);
  if (silent !== null) return said('silent', 0, past.rate ?? (day && rateOfDay(day)), silent);
  if (now.requests >= ENOUGH) {
    const share = now.failures / now.requests;
    if (now.failures >= 5 && share > failureBand + 0.02)
      return said('failing', share, failureBand, past.failedSince(at));
    const p95 = course.p95.at(end < course.requests.length ? -2 : -1) ?? Number.NaN;
    const band = usual.p95 ?? past.p95;
    if (band !== null && isSlow(p95, band)) return said('slow', p95, band, slowSince(course.p95, band, at));
  }
  const top = usual.requests ?? past.highest;
  if (top !== null && now.carried > 2 * top && now.carried > top + 1)
    return said('flooded', now.rate, top, floodedSince(course, { end, at, top }));
  return said(null, now.rate, past.rate);
}

/** Beyond twice what is usual, and by so many bytes a second more. */
const MUCH = 100_000;
/** Of what goes over the network nobody knows whether it fails, or how long it takes. */
function judgedByBytes(
  { bytes, day }: { readonly bytes: Float64Array; readonly day: LinkDay | null },
  band: number | null,
  end: number,
  at: EpochMs,
): LinkJudgement {
  const rate = perSecond(lastFive(bytes, end)) || 0;
  const rates: number[] = [];
  for (let to = end - 2 * FIVE; to >= FIVE; to -= FIVE) rates.push(perSecond(lastFive(bytes, to)));
  const usual = band ?? quiet(rates.filter((one) => one > 0));
  const against: LinkJudgement['against'] = band === null ? 'the time before' : 'this hour';
  const said = { now: rate, usual, against, by: 'bytes' as const };
  const silent = silentSince({ minutes: bytes, day, typical: null }, end, at);
  if (silent !== null)
    return { ...said, state: 'silent', now: 0, usual: usual ?? (day && rateOfDay(day)), since: silent };
  if (usual !== null && rate > 2 * usual && rate > usual + MUCH) {
    const none = bytes.map(() => 0);
    return {
      ...said,
      state: 'flooded',
      since: floodedSince({ requests: bytes, failures: none }, { end, at, top: usual }),
    };
  }
  return { ...said, state: null, since: null };
}

/** The window before, for links that are too young for days: an hour, less the last ten minutes, by five. */
function before(course: LinkCourse, end: number) {
  const windows: Window[] = [];
  for (let at = end - 2 * FIVE; at >= FIVE; at -= FIVE) windows.push(windowAt(course, at));
  const whole = windows.filter(({ requests }) => requests > 0);
  const rates = whole.map(({ rate }) => rate);
  const lengths = [...course.p95.subarray(0, Math.max(0, course.p95.length - 2))].filter(
    (value) => !Number.isNaN(value),
  );
  return {
    failureShare:
      whole.length < 2 ? 0 : Math.min(0.5, quiet(whole.map(({ failures, requests }) => failures / requests)) ?? 0),
    refusedShare:
      whole.length < 2 ? 0 : Math.min(0.5, quiet(whole.map(({ refused, requests }) => refused / requests)) ?? 0),
    p95: quiet(lengths),
    highest: quiet(rates),
    rate: quiet(rates),
    failedSince: (at: EpochMs) => sinceWhen(course, course.failures, end, at),
    refusedSince: (at: EpochMs) => sinceWhen(course, course.refused, end, at),
  };
}
/** The first minute of the stretch at the end that was so; a few minutes that were not do not end it. Null of `isSo`: nothing is known of that minute. */
function beganAt(end: number, at: EpochMs, isSo: (i: number) => boolean | null): EpochMs | null {
  let first: number | null = null;
  let otherwise = 0;
  for (let i = end - 1; i >= 0 && otherwise < FIVE; i--) {
    const so = isSo(i);
    if (so) first = i;
    if (so !== null) otherwise = so ? 0 : otherwise + 1;
  }
  return first === null ? null : at - (end - first) * MINUTE;
}
function sinceWhen({ requests }: LinkCourse, of: Float64Array, end: number, at: EpochMs): EpochMs | null {
  return beganAt(end, at, (i) => (requests[i]! > 0 ? of[i]! / requests[i]! >= 0.02 : null));
}
const isSlow = (p95: number, band: number): boolean => p95 > 2 * band && p95 > band + 0.05;
/** The first of the five minutes at the end that were slow. */
function slowSince(p95: Float64Array, band: number, at: EpochMs): EpochMs | null {
  let first: number | null = null;
  for (let i = p95.length - 1; i >= 0; i--) {
    if (Number.isNaN(p95[i]!)) continue;
    if (!isSlow(p95[i]!, band)) break;
    first = i;
  }
  return first === null ? null : at - (p95.length - first) * FIVE * MINUTE;
}
function floodedSince(
  { requests, failures }: Pick<LinkCourse, 'requests' | 'failures'>,
  { end, at, top }: { readonly end: number; readonly at: EpochMs; readonly top: number },
): EpochMs | null {
  return beganAt(end, at, (i) =>
    Number.isNaN(requests[i]!) ? null : (requests[i]! - (failures[i] || 0)) / 60 > 1.5 * top,
  );
}
