import { percentile } from '../statistics/index.ts';
import { DAY, HOUR } from '../units/index.ts';

import type { History } from './history.ts';
import { fitLine } from './line.ts';

const BINS = 24;
const SHORTEST = 3 * DAY;
/** A rhythm that does not quieten what lies beside the line by so much is none. */
const QUIETENS = 0.8;

const binOf = (at: number): number => Math.floor((((at % DAY) + DAY) % DAY) / HOUR);
/** Linear between the middles of the hours. */
export function rhythmAt(rhythm: Float64Array | null, at: number): number {
  if (!rhythm) return 0;
  const hour = (((at - HOUR / 2) % DAY) + DAY) % DAY;
  const low = Math.floor(hour / HOUR);
  const share = hour / HOUR - low;
  return rhythm[low]! * (1 - share) + rhythm[(low + 1) % BINS]! * share;
}

/** How much more or less than the trend it is at each hour of the day; null when there is no such rhythm, or too few days. */
export function dailyRhythm({ start, step, values }: History): Float64Array | null {
  if (values.length * step < SHORTEST || step > 2 * HOUR) return null;
  let rhythm: Float64Array | null = null;
  let before = Number.POSITIVE_INFINITY;
  const plainNoise = spreadOf({ values, slope: 0, rhythm: null, start, step });
  for (let turn = 0; turn < 3; turn++) {
    const own: Float64Array | null = rhythm;
    const plain = values.map((value, i) => value - rhythmAt(own, start + i * step));
    const line = fitLine(plain);
    if (!line) return null;
    const bins: number[][] = Array.from({ length: BINS }, () => []);
    values.forEach((value, i) => {
      if (!Number.isNaN(value)) bins[binOf(start + i * step)]!.push(value - line.level - line.slope * i);
    });
    if (bins.some((bin) => bin.length < 2)) return null;
    const medians = bins.map((bin) => percentile(bin, 0.5)!); // none is empty
    const mean = medians.reduce((sum, one) => sum + one, 0) / BINS;
    rhythm = Float64Array.from(medians, (one) => one - mean);
    before = spreadOf({ values, slope: line.slope, rhythm, start, step });
  }
  return before < plainNoise * QUIETENS ? rhythm : null;
}

/** How far neighbours of a day apart lie from the line, in the median. */
function spreadOf({
  values,
  slope,
  rhythm,
  start,
  step,
}: {
  readonly values: Float64Array;
  readonly slope: number;
  readonly rhythm: Float64Array | null;
  readonly start: number;
  readonly step: number;
}): number {
  const plain = values.map((value, i) => value - rhythmAt(rhythm, start + i * step));
  const line = fitLine(plain);
  if (!line) return Number.POSITIVE_INFINITY;
  const beside = [...plain].flatMap((value, i) =>
    Number.isNaN(value) ? [] : [Math.abs(value - line.level - (slope === 0 ? line.slope : slope) * i)],
  );
  return percentile(beside, 0.5) ?? Number.POSITIVE_INFINITY;
}
