import { DAY, type DurationMs, type EpochMs, HOUR } from '../units/index.ts';
import type { History } from './history.ts';
import { lastPiece } from './lastPiece.ts';
import { fitLine, type Line } from './line.ts';
import { dailyRhythm, rhythmAt } from './rhythm.ts';

export type RunningOut =
  /** It reaches its limit about `at`; in 8 of 10 cases between the other two. `latest` null: later than is looked ahead. */
  | { readonly is: 'date'; readonly at: EpochMs; readonly earliest: EpochMs; readonly latest: EpochMs | null }
  /** It is there already. */
  | { readonly is: 'now' }
  /** Not within this time, as far as its history tells: twelve times as far ahead as back, and no further than is looked. */
  | { readonly is: 'later'; readonly within: DurationMs }
  /** Too little is known. */
  | { readonly is: 'unknown' };

export const LOOKS_AHEAD: DurationMs = 90 * DAY;
/** Points a history is drawn together to: by the hour for two weeks. */
const POINTS = 336;
const FEWEST = 12;
/** What was read for a day says nothing of next month. */
const REACH = 12;
/** A slope below so many of its own errors may be noise. */
const SURE = 3;
const PATHS = 200;
/** Of the normal distribution, taken again and again: to draw each anew costs more than all the rest. */
const DRAWN = 2048;
/** Steps in which a path goes to where the line reaches the limit. */
const STEPS = 160;

/**
 * When something reaches its limit, by its trend since it last jumped and its daily rhythm: many paths are drawn that go
 * on as the past did, with its noise and with what is not known of its slope, and the times at which they arrive are
 * the band. `random` answers numbers in [0, 1); the same numbers give the same answer.
 */
export function runningOut(history: History, limit: number, random: () => number): RunningOut {
  const { start, step, values } = drawnTogether(history);
  const known = values.reduce((count, value) => count + Number(!Number.isNaN(value)), 0);
  if (known < FEWEST || !(limit > 0)) return { is: 'unknown' };
  const newest = values.findLast((value) => !Number.isNaN(value))!; // there are some
  if (newest >= limit) return { is: 'now' };
  const rhythm = dailyRhythm({ start, step, values });
  const plain = values.map((value, i) => value - rhythmAt(rhythm, start + i * step));
  const from = lastPiece(plain);
  const piece = plain.subarray(from);
  const line = fitLine(piece);
  if (!line) return { is: 'unknown' };
  const within = Math.min(LOOKS_AHEAD, REACH * (piece.length - 1) * step);
  if (line.slope <= 0 || line.slope < SURE * line.slopeError) return { is: 'later', within };

  const end = start + (values.length - 1) * step;
  const length = piece.length - 1;
  const level = line.level + line.slope * length;
  const distance = Math.max(1, (limit - level) / line.slope); // in steps
  if (distance * step > 3 * LOOKS_AHEAD) return { is: 'later', within };
  const times = arrivals({ line, level, length, limit, distance, step, end, rhythm, begun: from > 0 }, random);
  const at = (share: number): EpochMs | null => {
    const time = times[Math.floor(share * (times.length - 1))]!;
    return time > end + LOOKS_AHEAD ? null : time;
  };
  const middle = at(0.5);
  if (middle === null || middle > end + within) return { is: 'later', within };
  return { is: 'date', at: middle, earliest: at(0.1) ?? middle, latest: at(0.9) };
}

interface Course {
  readonly line: Line;
  readonly level: number;
  readonly length: number;
  readonly limit: number;
  readonly distance: number;
  readonly step: DurationMs;
  readonly end: EpochMs;
  readonly rhythm: Float64Array | null;
  /** It is the piece after a jump. */
  readonly begun: boolean;
}
/** Times at which paths that go on like the past reach the limit, ascending; infinite for those that never do. */
function arrivals(
  { line, level, length, limit, distance, step, end, rhythm, begun }: Course,
  random: () => number,
): number[] {
  const steps = Math.max(1, distance / STEPS);
  // a daily rhythm is not stepped over
  // where a piece begins is not known to the point
  const doubt = begun ? 2.3 : rhythm ? 0.85 : 1.1;
  const stride = rhythm ? Math.min(steps, HOUR / step) : steps;
  const keeps = line.memory ** stride;
  const shake = line.noise * Math.sqrt(1 - keeps * keeps);
  const most = Math.min(Math.ceil((8 * distance) / stride), Math.ceil((LOOKS_AHEAD * 1.2) / (stride * step)), 6000);
  const shakes = Float64Array.from({ length: DRAWN }, () => normal(random));
  const drawn = () => shakes[Math.floor(random() * DRAWN)]!;
  const times: number[] = [];
  for (let path = 0; path < PATHS; path++) {
    const turn = normal(random) * line.slopeError * doubt;
    const slope = line.slope + turn;
    // the line turns around the middle of what is known
    const begin = level + (turn * length) / 2 + normal(random) * line.levelError;
    let noise = line.last;
    let time = Number.POSITIVE_INFINITY;
    for (let n = 1; n <= most; n++) {
      noise = keeps * noise + shake * drawn();
      const at = end + n * stride * step;
      if (begin + slope * n * stride + noise + rhythmAt(rhythm, at) >= limit) {
        time = at;
        break;
      }
    }
    times.push(time);
  }
  return times.sort((a, b) => a - b);
}

/** Box and Muller (1958). */
function normal(random: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}

/** Means of neighbours, so that a long history has as many points as are looked at. */
function drawnTogether({ start, step, values }: History): History {
  const by = Math.ceil(values.length / POINTS);
  if (by <= 1) return { start, step, values };
  // the newest point ends the last group
  const offset = values.length % by;
  const out = new Float64Array(Math.floor(values.length / by)).fill(Number.NaN);
  for (let i = 0; i < out.length; i++) {
    let sum = 0;
    let count = 0;
    for (let n = 0; n < by; n++) {
      const value = values[offset + i * by + n]!;
      if (Number.isNaN(value)) continue;
      sum += value;
      count++;
    }
    if (count > 0) out[i] = sum / count;
  }
  return { start: start + (offset + (by - 1) / 2) * step, step: step * by, values: out };
}
