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

/** From when a step over time looks at a moment; a window is widened to two of the series' intervals. */
export function windowOf(
  { notes }: Context,
  stretch: Stretch,
  at: EpochMs,
  interval: DurationMs,
): { readonly from: EpochMs; readonly running: boolean } {
  if ('by' in stretch) return binOf(stretch.by, stretch.zone, at);
  const wanted = durationMs(stretch.over);
  if (wanted < 2 * interval)
    notes.add(
      `A window of ${formatDuration(wanted)} was widened to ${formatDuration(2 * interval)}: twice what lies between two readings.`,
    );
  return { from: at - Math.max(wanted, 2 * interval), running: false };
}
/** How far apart its samples are around a moment: what was brought in of the past may lie further apart than readings do. */
export function intervalAt({ times, interval }: SeriesIn, at: EpochMs): DurationMs {
  return Math.max(interval, widerAt(times, Math.max(0, lastAtMost(times, at)), stalenessOf(interval)));
}
/** A step over time of one series at a moment. */
export function pointOver(
  context: Context,
  series: SeriesIn,
  step: OverTimeStep,
  at: EpochMs,
): Point | 'missed' | null {
  const { from, running } = windowOf(context, step.stretch, at, intervalAt(series, at));
  const point = pointIn(context, series, step, [from, at]);
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
