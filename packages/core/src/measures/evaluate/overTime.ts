import { type Beside, type BesideColumns, holdOf, isEndMarker, stalenessOf } from '../../samples/index.ts';
import { percentile } from '../../statistics/index.ts';
import type { DurationMs, EpochMs } from '../../units/index.ts';
import type { OverTime } from '../tree.ts';
import { KEPT_MARKS, lastAtMost, PARTIAL, type Rolled, type SeriesIn } from './lines.ts';

/** A value at a moment, or why there is none. */
export interface Point {
  readonly value: number;
  readonly marks: number;
}

/** Samples of a series without end markers, and when it ended. */
export interface Sampled {
  readonly interval: DurationMs;
  readonly times: Float64Array;
  readonly values: Float64Array;
  /** Null: none of them has any. */
  readonly marks: Uint8Array | null;
  readonly ends: readonly EpochMs[];
  readonly rolled: Rolled | null;
}
export function sampled(series: SeriesIn): Sampled {
  const count = series.times.length;
  const ends: EpochMs[] = [];
  for (let i = 0; i < count; i++) if (isEndMarker(series.values[i]!)) ends.push(series.times[i]!);
  const times = new Float64Array(count - ends.length);
  const values = new Float64Array(count - ends.length);
  const marks = series.marks === undefined ? null : new Uint8Array(count - ends.length);
  for (let i = 0, kept = 0; i < count; i++) {
    const value = series.values[i]!;
    if (ends.length > 0 && isEndMarker(value)) continue;
    times[kept] = series.times[i]!;
    values[kept] = value;
    if (marks !== null) marks[kept] = series.marks![i]! & KEPT_MARKS;
    kept++;
  }
  // of roll-ups no ends are known
  return { interval: series.interval, times, values, marks, ends, rolled: series.rolled ?? null };
}

const endedBetween = (ends: readonly EpochMs[], after: EpochMs, upTo: EpochMs): boolean => {
  const i = lastAtMost(ends, upTo);
  return i >= 0 && ends[i]! > after;
};
/** Its latest sample at a moment, unless it is late or ended; 'missed': it is late and still there. */
export function valueAt(series: Sampled, at: EpochMs): Point | 'missed' | null {
  const i = lastAtMost(series.times, at);
  if (i < 0 || endedBetween(series.ends, series.times[i]!, at)) return null;
  if (at - series.times[i]! > holdOf(series.times, i, stalenessOf(series.interval))) return 'missed';
  return { value: series.values[i]!, marks: marksOf(series, i, i + 1) };
}

/** Places of the samples in (from, to]. */
function within({ times }: Sampled, from: EpochMs, to: EpochMs): readonly [first: number, end: number] {
  return [lastAtMost(times, from) + 1, lastAtMost(times, to) + 1];
}
const marksOf = ({ marks }: Sampled, first: number, end: number): number => {
  let all = 0;
  if (marks !== null) for (let i = first; i < end; i++) all |= marks[i]!;
  return all;
};

/** What stands for no samples up to a moment, of which this is the last: it is late, or there is none that could be. */
const nothingSince = ({ times, ends }: Sampled, last: number, to: EpochMs): 'missed' | null =>
  last < 0 || endedBetween(ends, times[last]!, to) ? null : 'missed';

/** Over the samples in (from, to]; null where there are none, 'missed' where there should be. */
export function overTime(series: Sampled, what: OverTime, from: EpochMs, to: EpochMs): Point | 'missed' | null {
  const [first, end] = within(series, from, to);
  if (first >= end) return nothingSince(series, first - 1, to);
  return { value: figureOf(series, what, first, end), marks: marksOf(series, first, end) };
}
function figureOf(series: Sampled, what: OverTime, first: number, end: number): number {
  const { values, rolled } = series;
  if (rolled !== null) return figureOfBuckets(rolled.beside, values, what, first, end);
  switch (what) {
    case 'average':
      return averageOf(series, first, end);
    case 'latest':
      return values[end - 1]!;
    case 'count':
      return end - first;
    case 'total':
    case 'highest':
    case 'lowest':
    case 'deviation':
      return figure(what, values.subarray(first, end));
  }
}
/** Of all samples in buckets: those that are no number count as they would by themselves. */
function figureOfBuckets(
  beside: BesideColumns,
  lasts: Float64Array,
  what: OverTime,
  first: number,
  end: number,
): number {
  const part = (name: Beside): Float64Array => beside[name]!.subarray(first, end); // it was asked for: see `neededOfRollUps`
  const sum = (name: Beside): number => part(name).reduce((all, one) => all + one, 0);
  const known = (value: number): number => (sum('nans') > 0 ? Number.NaN : value);
  switch (what) {
    case 'latest':
      return lasts[end - 1]!;
    case 'highest':
      return figure('highest', part('max'));
    case 'lowest':
      return figure('lowest', part('min'));
    case 'count':
      return sum('count') + sum('nans');
    case 'total':
      return known(sum('sum'));
    case 'average':
      return known(sum('sum') / sum('count'));
    case 'deviation': {
      const count = sum('count');
      return known(Math.sqrt(Math.max(0, sum('squares') / count - (sum('sum') / count) ** 2)));
    }
  }
}
/** Each sample stands for the time since the one before it, at most one interval. */
function averageOf({ times, values, interval }: Sampled, first: number, end: number): number {
  let sum = 0;
  let weight = 0;
  for (let i = first; i < end; i++) {
    const since = i === 0 ? interval : Math.min(interval, times[i]! - times[i - 1]!);
    sum += values[i]! * since;
    weight += since;
  }
  return sum / weight;
}
/** Of any values, over time as across series; highest and lowest leave NaN out unless there is nothing else. */
export function figure(
  what: 'total' | 'average' | 'highest' | 'lowest' | 'count' | 'deviation',
  values: ArrayLike<number>,
): number {
  let sum = 0;
  let most = Number.NEGATIVE_INFINITY;
  let least = Number.POSITIVE_INFINITY;
  let known = 0;
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!;
    sum += value;
    if (Number.isNaN(value)) continue;
    known++;
    if (value > most) most = value;
    if (value < least) least = value;
  }
  switch (what) {
    case 'total':
      return sum;
    case 'count':
      return values.length;
    case 'average':
      return sum / values.length;
    case 'highest':
      return known === 0 ? Number.NaN : most;
    case 'lowest':
      return known === 0 ? Number.NaN : least;
    case 'deviation': {
      const mean = sum / values.length;
      let squares = 0;
      for (let i = 0; i < values.length; i++) squares += (values[i]! - mean) ** 2;
      return Math.sqrt(squares / values.length);
    }
  }
}
/** Rank P/100 × (n − 1) of the ascending values, linear between ranks; NaN where one of them is. */
export function percentileOf(values: ArrayLike<number>, percent: number): number {
  for (let i = 0; i < values.length; i++) if (Number.isNaN(values[i]!)) return Number.NaN;
  return percentile(values, percent / 100) ?? Number.NaN;
}
export function percentileOver(series: Sampled, percent: number, from: EpochMs, to: EpochMs): Point | 'missed' | null {
  const [first, end] = within(series, from, to);
  if (first >= end) return nothingSince(series, first - 1, to);
  return { value: percentileOf(series.values.subarray(first, end), percent), marks: marksOf(series, first, end) };
}
/** Value at the end less that at the beginning; without one there the first in the window, and partial. */
export function changeOver(series: Sampled, from: EpochMs, to: EpochMs): Point | 'missed' | null {
  const last = valueAt(series, to);
  if (last === null || last === 'missed') return last;
  const before = valueAt(series, from);
  if (before !== null && before !== 'missed')
    return { value: last.value - before.value, marks: last.marks | before.marks };
  const [first, end] = within(series, from, to);
  if (first >= end) return null;
  return { value: last.value - series.values[first]!, marks: last.marks | marksOf(series, first, first + 1) | PARTIAL };
}
/** Least squares, per second; null with fewer than two samples. */
export function slopeOver(series: Sampled, from: EpochMs, to: EpochMs): Point | 'missed' | null {
  const [first, end] = within(series, from, to);
  const count = end - first;
  if (count === 0) return nothingSince(series, first - 1, to);
  if (count < 2) return null;
  const origin = series.times[first]!;
  let [t, v] = [0, 0];
  for (let i = first; i < end; i++) {
    t += series.times[i]! - origin;
    v += series.values[i]!;
  }
  t /= count * 1000;
  v /= count;
  let [above, below] = [0, 0];
  for (let i = first; i < end; i++) {
    const second = (series.times[i]! - origin) / 1000 - t;
    above += second * (series.values[i]! - v);
    below += second * second;
  }
  return { value: above / below, marks: marksOf(series, first, end) };
}
/** Share of the covered time of (from, to] that it was above, or below; null where nothing is covered. */
export function timeBeyond(
  series: Sampled,
  bound: number,
  above: boolean,
  [from, to]: readonly [from: EpochMs, to: EpochMs],
): Point | 'missed' | null {
  const { times, values, ends, interval } = series;
  let covered = 0;
  let beyond = 0;
  let marks = 0;
  // a sample from before the window holds into it
  for (let i = Math.max(0, lastAtMost(times, from)); i < times.length && times[i]! <= to; i++) {
    const next = i + 1 < times.length ? times[i + 1]! : Number.POSITIVE_INFINITY;
    const ended = ends.length === 0 ? undefined : ends[lastAtMost(ends, times[i]!) + 1];
    const until = Math.min(next, ended ?? next, times[i]! + holdOf(times, i, stalenessOf(interval)), to);
    const span = until - Math.max(times[i]!, from);
    if (span <= 0 || Number.isNaN(values[i]!)) continue;
    covered += span;
    marks |= marksOf(series, i, i + 1);
    if (above ? values[i]! > bound : values[i]! < bound) beyond += span;
  }
  if (covered === 0) {
    const [first, end] = within(series, from, to);
    return first < end ? null : nothingSince(series, first - 1, to);
  }
  return { value: beyond / covered, marks };
}
