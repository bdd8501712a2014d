import { holdOf, isEndMarker, stalenessOf } from '../../samples/index.ts';
import type { DurationMs, EpochMs } from '../../units/index.ts';
import { lastAtMost, type SeriesIn } from './lines.ts';

/** A counter's samples with what was lost at resets, and 0 where it began. */
export interface Counted {
  readonly interval: DurationMs;
  readonly times: Float64Array;
  /** NaN where the page said so. */
  readonly values: Float64Array;
  /** What earlier runs came to, in sum: added, the counter never falls. */
  readonly lost: Float64Array;
  /** 1: no sample, the moment at which it began at 0. */
  readonly born: Uint8Array;
  readonly ends: readonly EpochMs[];
}

const latest = (list: readonly number[] | undefined, after: number, upTo: number): number | null => {
  let found: number | null = null;
  for (const at of list ?? []) if (at > after && at <= upTo && (found === null || at > found)) found = at;
  return found;
};
const createdAt = ({ created }: SeriesIn, at: EpochMs): number | null => {
  let found: number | null = null;
  for (const one of created ?? []) if (one.from <= at && one.at <= at) found = one.at;
  return found;
};

/** `resets`: of a histogram, where any of its parts began anew; one part's reset is that of all. */
export function counted(series: SeriesIn, resets?: ReadonlySet<EpochMs>): Counted {
  const times: number[] = [];
  const values: number[] = [];
  const lost: number[] = [];
  const born: number[] = [];
  const ends: number[] = [];
  let sum = 0;
  let before: { at: number; value: number } | null = null;
  let ended: number | null = null;
  const put = (at: number, value: number, birth: boolean) => {
    times.push(at);
    values.push(value);
    lost.push(sum);
    born.push(birth ? 1 : 0);
  };
  for (let i = 0; i < series.times.length; i++) {
    const at = series.times[i]!;
    const value = series.values[i]!;
    if (isEndMarker(value)) {
      ends.push(at);
      ended = at;
      continue;
    }
    if (Number.isNaN(value)) {
      put(at, value, false);
      continue;
    }
    if (before === null || ended !== null) {
      const birth = birthOf(series, at, ended);
      if (before !== null) sum += before.value;
      if (birth !== null) put(birth, 0, true);
    } else if (isReset(series, before, { at, value }) || resets?.has(at) === true) sum += before.value;
    put(at, value, false);
    before = { at, value };
    ended = null;
  }
  return {
    interval: series.interval,
    times: new Float64Array(times),
    values: new Float64Array(values),
    lost: new Float64Array(lost),
    born: new Uint8Array(born),
    ends,
  };
}
/** When it began at 0; null where nothing says. `ended`: when it ended before it came back. */
function birthOf(series: SeriesIn, at: EpochMs, ended: EpochMs | null): EpochMs | null {
  const after = ended ?? Number.NEGATIVE_INFINITY;
  const created = createdAt(series, at);
  if (created !== null && created >= after) return created;
  const started = latest(series.starts, after, at);
  if (started !== null) return started;
  const lacked = latest(series.lacked, after, at);
  return lacked !== null && lacked < at ? lacked : ended;
}
interface Sample {
  readonly at: EpochMs;
  readonly value: number;
}
const isReset = (series: SeriesIn, before: Sample, { at, value }: Sample): boolean => {
  const created = createdAt(series, at);
  return (
    value < before.value || latest(series.starts, before.at, at) !== null || (created !== null && created > before.at)
  );
};
/** Where a counter begins anew, by its samples and its page. */
export function resetsOf(series: SeriesIn): EpochMs[] {
  const own: EpochMs[] = [];
  let before: Sample | null = null;
  for (let i = 0; i < series.times.length; i++) {
    const sample = { at: series.times[i]!, value: series.values[i]! };
    if (Number.isNaN(sample.value)) continue;
    if (before !== null && isReset(series, before, sample)) own.push(sample.at);
    before = sample;
  }
  return own;
}

export interface Growth {
  readonly value: number;
  readonly partial: boolean;
  /** Between the two samples that were used; 0 where only one was. */
  readonly between: DurationMs;
  /** It ended within the window. */
  readonly ended: boolean;
}
/**
 * How much a counter grew in (t − over, t]: the last value at or before the end less that at or before the beginning, and what was
 * lost at resets. Null where it has no value; `missed`: though it is still there.
 */
export function growthAt(series: Counted, t: EpochMs, over: DurationMs): Growth | 'missed' | null {
  const { times, values, lost, born, ends, interval } = series;
  const holds = (i: number) => holdOf(times, i, stalenessOf(interval));
  const end = lastAtMost(times, t);
  if (end < 0) return null;
  const ended = endBetween(ends, times[end]!, t);
  if (ended !== null && ended <= t - over) return null;
  if (ended === null && t - times[end]! > holds(end)) return 'missed';
  if (Number.isNaN(values[end]!)) return { value: Number.NaN, partial: false, between: 0, ended: ended !== null };
  const total = (i: number) => values[i]! + lost[i]!;
  let begin = lastAtMost(times, t - over);
  while (begin >= 0 && Number.isNaN(values[begin]!)) begin--;
  const known =
    begin >= 0 && t - over - times[begin]! <= holds(begin) && endBetween(ends, times[begin]!, t - over) === null;
  if (known)
    return {
      value: total(end) - total(begin),
      partial: false,
      between: times[end]! - times[begin]!,
      ended: ended !== null,
    };
  begin = lastAtMost(times, t - over) + 1;
  while (begin < end && Number.isNaN(values[begin]!)) begin++;
  return {
    value: total(end) - total(begin),
    partial: born[begin] !== 1,
    between: times[end]! - times[begin]!,
    ended: ended !== null,
  };
}
/** An end after a sample and up to a moment; null: none. */
function endBetween(ends: readonly EpochMs[], after: EpochMs, upTo: EpochMs): EpochMs | null {
  const i = lastAtMost(ends, upTo);
  return i >= 0 && ends[i]! > after ? ends[i]! : null;
}
