import { formatDuration } from '../../format/index.ts';
import { stalenessOf, widerAt } from '../../samples/index.ts';
import type { DurationMs, EpochMs } from '../../units/index.ts';
import type { Step, Stretch } from '../tree.ts';
import { amountOf, durationMs } from '../units.ts';
import { binOf } from './calendar.ts';
import type { Context } from './context.ts';
import { type Growth, growthAt } from './growth.ts';
import { lastAtMost, PARTIAL, type SeriesIn } from './lines.ts';
import { changeOver, overTime, type Point, percentileOver, slopeOver, timeBeyond } from './overTime.ts';

export type OverTimeStep = Extract<Step, { stretch: Stretch }>;

/**
 * What a step over time looks at for a moment, (from, to]. A window is widened to two of the series' intervals; of roll-ups
 * both borders move back to those of buckets.
 */
export function windowOf(
  context: Context,
  stretch: Stretch,
  at: EpochMs,
  series: SeriesIn,
): { readonly from: EpochMs; readonly to: EpochMs; readonly running: boolean } {
  const window = wantedWindow(context, stretch, at, series);
  const bucket = series.rolled?.bucket;
  if (bucket === undefined) return window;
  const border = (moment: EpochMs) => Math.floor(moment / bucket) * bucket;
  return { ...window, from: border(window.from), to: border(window.to) };
}
function wantedWindow({ notes }: Context, stretch: Stretch, at: EpochMs, series: SeriesIn) {
  if ('by' in stretch) return { ...binOf(stretch.by, stretch.zone, at), to: at };
  const wanted = durationMs(stretch.over);
  const { rolled } = series;
  const apart = intervalAt(series, at);
  const least = rolled && apart <= rolled.bucket ? Math.max(2 * rolled.interval, rolled.bucket) : 2 * apart;
  if (wanted < least)
    notes.add(
      `A window of ${formatDuration(wanted)} was widened to ${formatDuration(least)}: ${rolled && least === rolled.bucket ? 'a bucket of the roll-ups' : 'twice what lies between two readings'}.`,
    );
  return { from: at - Math.max(wanted, least), to: at, running: false };
}
/** How far apart its samples are around a moment: what was brought in of the past may lie further apart than readings do. */
function intervalAt({ times, interval }: SeriesIn, at: EpochMs): DurationMs {
  return Math.max(interval, widerAt(times, Math.max(0, lastAtMost(times, at)), stalenessOf(interval)));
}
/** A step over time of one series at a moment. */
export function pointOver(
  context: Context,
  series: SeriesIn,
  step: OverTimeStep,
  at: EpochMs,
): Point | 'missed' | null {
  const { from, to, running } = windowOf(context, step.stretch, at, series);
  const point = pointIn(context, series, step, [from, to]);
  return point === null || point === 'missed' || !running ? point : { ...point, marks: point.marks | PARTIAL };
}
function pointIn(
  context: Context,
  series: SeriesIn,
  step: OverTimeStep,
  [from, to]: readonly [from: EpochMs, to: EpochMs],
): Point | 'missed' | null {
  switch (step.step) {
    case 'growth':
    case 'per second':
      return growthPoint(growthAt(context.readings.countsOf(series), to, to - from), step.step);
    case 'change':
      return changeOver(context.readings.samplesOf(series), from, to);
    case 'slope':
      return slopeOver(context.readings.samplesOf(series), from, to);
    case 'over time':
      return overTime(context.readings.samplesOf(series), step.what, from, to);
    case 'percentile over time':
      return percentileOver(context.readings.samplesOf(series), step.percentile, from, to);
    case 'time above':
    case 'time below':
      return timeBeyond(context.readings.samplesOf(series), amountOf(step.bound).value, step.step === 'time above', [
        from,
        to,
      ]);
  }
}
export function growthPoint(growth: Growth | 'missed' | null, step: 'growth' | 'per second'): Point | 'missed' | null {
  if (growth === null || growth === 'missed') return growth;
  const marks = growth.partial ? PARTIAL : 0;
  if (step === 'growth') return { value: growth.value, marks };
  if (growth.ended) return null;
  if (Number.isNaN(growth.value)) return { value: Number.NaN, marks };
  return growth.between > 0 ? { value: growth.value / (growth.between / 1000), marks } : null;
}
