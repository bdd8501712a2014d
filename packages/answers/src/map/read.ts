import { type EpochMs, MINUTE } from '@zetopsis/core/units';

/** What was read of the links of one pair, of one side. */
export interface ReadLine {
  readonly labels: Readonly<Record<string, string>>;
  readonly values: Float64Array;
}
/** The last value of each line: what is usual at this hour. Upper bands, but for what is typical; requests per second, s. */
export interface ReadUsual {
  readonly requests: readonly ReadLine[];
  readonly typical: readonly ReadLine[];
  readonly failures: readonly ReadLine[];
  readonly refused: readonly ReadLine[];
  readonly p95: readonly ReadLine[];
  readonly bytes: readonly ReadLine[];
}
export const NO_USUAL: ReadUsual = { requests: [], typical: [], failures: [], refused: [], p95: [], bytes: [] };
export interface ReadLinks {
  readonly at: EpochMs;
  /** By pair, protocol and side: what was counted up to the end of each minute. */
  readonly requests: readonly ReadLine[];
  readonly failures: readonly ReadLine[];
  readonly refused: readonly ReadLine[];
  /** By pair and side: each five minutes. */
  readonly p95: readonly ReadLine[];
  /** By pair, of the answerer: seconds of its own and in all, over the last five minutes. */
  readonly own: readonly ReadLine[];
  readonly spent: readonly ReadLine[];
  /** By pair and side: of how many requests of the last five minutes a span came. */
  readonly seen: readonly ReadLine[];
  /** By pair: what machines counted up to the end of each minute, and the connections that are open. */
  readonly bytes: readonly ReadLine[];
  readonly connections: readonly ReadLine[];
  /** Of the bytes of the last five minutes, those by an address that changed hands within its minute. */
  readonly uncertain: readonly ReadLine[];
  /** This hour on other days, by pair, as the caller saw it. */
  readonly usual: ReadUsual;
  /** Null: it could not be read. */
  readonly day: ReadDay | null;
}
/** What was read of the day before: silence outlasts the hour that courses are of. By pair and side; machines are a side. */
export interface ReadDay {
  /** The end of the last of the fives: a whole hour. */
  readonly upTo: EpochMs;
  /** What was counted in each five minutes. */
  readonly requests: readonly ReadLine[];
  readonly bytes: readonly ReadLine[];
  /** By the end of an hour: the end of the last minute in which each line counted something. */
  readonly hours: ReadonlyMap<EpochMs, ReadonlyMap<string, EpochMs>>;
}
export const MINUTES = 66;
export const nothing = (length: number): Float64Array => new Float64Array(length).fill(Number.NaN);
/** After so long without a sample nothing stands there any more: what comes then is new, minutes. */
const STALE = 3;
/**
 * What was counted in each minute, of what had been counted up to its end; one more was read before the first. What begins within is counted
 * from nothing, and so is what begins anew. NaN where nothing was told.
 */
export function eachMinute(counted: Float64Array): Float64Array {
  const each = nothing(counted.length - 1);
  let before = Number.NaN;
  for (let i = 0; i < counted.length; i++) {
    const value = counted[i]!;
    if (Number.isNaN(value)) continue;
    if (i > 0 && !Number.isNaN(before)) each[i - 1] = value >= before ? value - before : value;
    else if (i >= STALE) each[i - 1] = value;
    before = value;
  }
  return each;
}
/** When the points of what is read stand: each minute, one more before, and each five minutes, up to a moment. */
export const minutesUpTo = (at: EpochMs): Float64Array =>
  Float64Array.from({ length: MINUTES + 1 }, (_, i) => at - (MINUTES - i) * MINUTE);
export const fivesUpTo = (at: EpochMs): Float64Array =>
  Float64Array.from({ length: 13 }, (_, i) => at - (12 - i) * 5 * MINUTE);
export function addTo(into: Float64Array, values: Float64Array): void {
  for (let i = 0; i < into.length; i++) {
    const value = values[i] ?? Number.NaN;
    if (!Number.isNaN(value)) into[i] = (Number.isNaN(into[i]!) ? 0 : into[i]!) + value;
  }
}
