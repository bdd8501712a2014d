import { HOLDS_AT_MOST, holdOf, isEndMarker, roomFor, type Samples, widerAt } from '../samples/index.ts';
import { medianSlope } from '../statistics/index.ts';
import type { DurationMs, EpochMs } from '../units/index.ts';

/** `count` moments, `step` apart; the first one is `start`. */
export interface Grid {
  readonly start: EpochMs;
  readonly step: DurationMs;
  readonly count: number;
}

const POINTS = 240;
/** A window of three hours that is a second longer is drawn on the same grid: lengths up to this much more are one. */
const SLACK = 1.01;

/** A grid whose last moment is `to`, of about 240 points at most and never finer than the readings. */
export function gridFor(from: EpochMs, to: EpochMs, interval: DurationMs): Grid {
  const step = Math.max(interval, Math.ceil((to - from) / SLACK / POINTS / interval) * interval);
  const count = Math.max(1, Math.floor((to - from) / step) + 1);
  return { start: to - (count - 1) * step, step, count };
}

export const gridTime = (grid: Grid, index: number): EpochMs => grid.start + index * grid.step;
export const gridEnd = (grid: Grid): EpochMs => gridTime(grid, grid.count - 1);

/** The points of a grid at which something that was there from … to was there: first and, exclusive, last. */
export function presenceOn(grid: Grid, from: EpochMs, to: EpochMs | null): readonly [first: number, end: number] {
  const index = (at: EpochMs) => Math.min(grid.count, Math.max(0, Math.ceil((at - grid.start) / grid.step)));
  const first = index(from);
  return [first, to === null ? grid.count : Math.max(first, index(to))];
}

/** A rate is a mean over this many intervals, so that one late reading does not make a spike. */
export const RATE_INTERVALS = 4;

/** Walks forward over the samples of one series. */
class SampleWalk {
  private at = -1;
  private readonly samples: Samples;
  private readonly staleness: DurationMs;
  constructor(samples: Samples, staleness: DurationMs) {
    this.samples = samples;
    this.staleness = staleness;
  }
  /** Index of the latest sample at or before `time` that still holds then; -1 when there is none. Times must ascend. */
  indexAt(time: EpochMs): number {
    const { times, values } = this.samples;
    while (this.at + 1 < times.length && times[this.at + 1]! <= time) this.at++;
    if (this.at < 0 || isEndMarker(values[this.at]!)) return -1;
    const age = time - times[this.at]!;
    // it holds for its staleness at least
    if (age > this.staleness && age > holdOf(times, this.at, this.staleness)) return -1;
    return this.at;
  }
}

let nothing = new Uint8Array(0);
/** Where nothing is unread, which is the same for most: nobody writes to it. */
function nothingUnread(count: number): Uint8Array {
  if (nothing.length !== count) nothing = new Uint8Array(count);
  return nothing;
}

/**
 * 1 where a reading is missing that should be there: no sample holds and the series did not say that it ended. A thing
 * that was not running yet (before `from`) is missed by nobody, nor outside of the points at which it was `there`; nor is a
 * series without any sample. What is answered may be shared: nobody writes to it.
 */
export function unreadOnGrid({
  samples,
  grid,
  staleness,
  from,
  there = [0, grid.count],
}: {
  readonly samples: Samples;
  readonly grid: Grid;
  readonly staleness: DurationMs;
  readonly from: EpochMs;
  readonly there?: readonly [first: number, end: number];
}): Uint8Array {
  const { times, values } = samples;
  let out: Uint8Array | null = null;
  if (times.length === 0) return nothingUnread(grid.count);
  let at = -1;
  // it changes with the sample that was last, which is the same for several points
  let ended = false;
  for (let i = there[0]; i < there[1]; i++) {
    const time = gridTime(grid, i);
    const before = at;
    while (at + 1 < times.length && times[at + 1]! <= time) at++;
    if (at !== before) ended = isEndMarker(values[at]!);
    // a sample holds for its staleness at least
    if (ended || (at >= 0 && time - times[at]! <= staleness)) continue;
    const holds = holdOf(times, Math.max(0, at), staleness);
    if (at >= 0 && time - times[at]! <= holds) continue;
    // one interval after the start there may be no reading yet
    if (time < from + holds) continue;
    out ??= new Uint8Array(grid.count);
    out[i] = 1;
  }
  return out ?? nothingUnread(grid.count);
}

/** A gauge's value at each moment of the grid; NaN where no sample holds. */
export function latestOnGrid(samples: Samples, grid: Grid, staleness: DurationMs): Float64Array {
  const walk = new SampleWalk(samples, staleness);
  const out = roomFor(grid.count);
  for (let i = 0; i < grid.count; i++) {
    const index = walk.indexAt(gridTime(grid, i));
    out[i] = index < 0 ? Number.NaN : samples.values[index]!;
  }
  return out;
}

/**
 * A counter's growth per second over the `over` before each moment of the grid. What was counted before a reset is not
 * lost: where the counter falls, it has begun again at 0. Needs two samples; NaN otherwise.
 */
export function perSecondOnGrid({
  samples,
  grid,
  over,
  staleness,
}: {
  readonly samples: Samples;
  readonly grid: Grid;
  readonly over: DurationMs;
  readonly staleness: DurationMs;
}): Float64Array {
  const { times, values } = samples;
  const grown = growthSinceFirst(samples);
  const out = roomFor(grid.count).fill(Number.NaN);
  const holds = (index: number, time: EpochMs) =>
    index >= 0 && !isEndMarker(values[index]!) && time - times[index]! <= holdOf(times, index, staleness);
  let last = -1;
  let before = -1;
  for (let i = 0; i < grid.count; i++) {
    const time = gridTime(grid, i);
    while (last + 1 < times.length && times[last + 1]! <= time) last++;
    while (before + 1 < times.length && times[before + 1]! <= time - over) before++;
    if (!holds(last, time)) continue;
    // readings that lie further apart than usual, as those of a past that was brought in, are a rate over as many of them
    const wide = RATE_INTERVALS * widerAt(times, last, staleness);
    let begin = before;
    const from = time - Math.max(over, Math.min(wide, HOLDS_AT_MOST));
    while (begin >= 0 && times[begin]! > from) begin--;
    // what does not hold any more at the beginning is left out: the growth is that since the first sample after it
    let first = holds(begin, from) ? begin : begin + 1;
    while (first < last && isEndMarker(values[first]!)) first++;
    if (first >= last) continue;
    out[i] = (grown[last]! - grown[first]!) / ((times[last]! - times[first]!) / 1000);
  }
  return out;
}

/** Used again by every call: nobody keeps what is in it. */
let scratch = new Float64Array(1024);

/** Running total of a counter with its resets added back; end markers carry the total on. Valid until the next call. */
function growthSinceFirst({ values }: Samples): Float64Array {
  if (scratch.length < values.length) scratch = new Float64Array(values.length * 2);
  const out = scratch;
  let total = 0;
  let before = Number.NaN;
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!;
    if (!Number.isNaN(value)) {
      // nothing has been counted before the first
      if (!Number.isNaN(before)) total += value >= before ? value - before : value;
      before = value;
    }
    out[i] = total;
  }
  return out;
}

/** Of every object in every window: fewer pairs than where running out is worked out. */
const FIT_POINTS = 48;

/** The robust straight line, per step, from the newest value on; null with too few. */
function robustLine(values: Float64Array): { slope: number; last: number } | null {
  const slope = medianSlope(values, FIT_POINTS);
  const last = values.findLast((value) => !Number.isNaN(value));
  return slope === null || last === undefined ? null : { slope, last };
}

/** Where a robust straight line through the values lands one window after the last; null when it stands still. */
export function headingOf(values: Float64Array): number | null {
  const line = robustLine(values);
  if (!line) return null;
  const lands = line.last + line.slope * values.length;
  return Math.abs(lands - line.last) < Math.abs(line.last) * 0.05 ? null : Math.max(0, lands);
}

/** How long until a robust straight line through the values reaches `size`; null when it does not grow, or too little is known. */
export function fullIn(values: Float64Array, step: DurationMs, size: number): DurationMs | null {
  const line = robustLine(values);
  if (!line || line.slope <= 0) return null;
  return Math.max(0, ((size - line.last) / line.slope) * step);
}
