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
export const runningOut = (history: History, limit: number, random: () => number): RunningOut =>
  told(history, limit, random).outcome;

/** The same, and since when what it goes by has been going on. */
function told(
  history: History,
  limit: number,
  random: () => number,
): { readonly outcome: RunningOut; readonly since: EpochMs } {
  const { start, step, values } = drawnTogether(history);
  const as = (outcome: RunningOut, from = 0) => ({ outcome, since: start + from * step });
  const known = values.reduce((count, value) => count + Number(!Number.isNaN(value)), 0);
  if (known < FEWEST || !(limit > 0)) return as({ is: 'unknown' });
  const newest = values.findLast((value) => !Number.isNaN(value))!; // there are some
  if (newest >= limit) return as({ is: 'now' });
  const rhythm = dailyRhythm({ start, step, values });
  const plain = values.map((value, i) => value - rhythmAt(rhythm, start + i * step));
  const from = lastPiece(plain);
  const piece = plain.subarray(from);
  const line = blurred(fitLine(piece), piece.length);
  if (!line) return as({ is: 'unknown' });
  const within = Math.min(LOOKS_AHEAD, REACH * (piece.length - 1) * step);
  if (line.slope <= 0 || line.slope < SURE * line.slopeError) return as({ is: 'later', within }, from);

  const end = start + (values.length - 1) * step;
  const length = piece.length - 1;
  const level = line.level + line.slope * length;
  const distance = Math.max(1, (limit - level) / line.slope); // in steps
  if (distance * step > 3 * LOOKS_AHEAD) return as({ is: 'later', within }, from);
  const times = arrivals({ line, level, length, limit, distance, step, end, rhythm, begun: from > 0 }, random);
  const at = (share: number): EpochMs | null => {
    const time = times[Math.floor(share * (times.length - 1))]!;
    return time > end + LOOKS_AHEAD ? null : time;
  };
  const middle = at(0.5);
  if (middle === null || middle > end + within) return as({ is: 'later', within }, from);
  return as({ is: 'date', at: middle, earliest: at(0.1) ?? middle, latest: at(0.9) }, from);
}

/** Of a step it is not known when in it something was: no line is known better than to a part of a step. */
const PART = 0.25;
function blurred(line: Line | null, points: number): Line | null {
  if (!line) return null;
  const least = PART * Math.abs(line.slope);
  return {
    ...line,
    noise: Math.hypot(line.noise, least),
    slopeError: Math.hypot(line.slopeError, least / Math.sqrt(points ** 3 / 12)),
    levelError: Math.hypot(line.levelError, least / Math.sqrt(points)),
  };
}

/** A peak this near a limit may as well have been an end at it. */
const AS_GOOD_AS = 0.95;
/** The highest that a history was before a moment; null where nothing is known of that time. */
function highestBefore({ start, step, values }: History, moment: EpochMs): number | null {
  let most: number | null = null;
  for (let i = 0; i < values.length && start + i * step < moment; i++)
    if (!Number.isNaN(values[i]!)) most = Math.max(most ?? values[i]!, values[i]!);
  return most;
}

/**
 * The same by several histories of one thing, the finest first: what began lately shows in minutes, what is slow in days.
 * The newest readings count, unless the longer history went through the same before and turned back short of the limit.
 */
export function runningOutByScales(scales: readonly History[], limit: number, random: () => number): RunningOut {
  let later: RunningOut = { is: 'unknown' };
  for (const [i, scale] of scales.entries()) {
    const { outcome, since } = told(scale, limit, random);
    if (outcome.is === 'now') return outcome;
    if (outcome.is === 'date') {
      const longer = scales[i + 1];
      if (!longer) return outcome;
      const newest = scale.values.findLast((value) => !Number.isNaN(value)) ?? 0;
      const peak = Math.max(highestBefore(scale, since) ?? 0, highestBefore(longer, since) ?? 0);
      if (newest > peak || peak >= AS_GOOD_AS * limit) return outcome;
      continue;
    }
    if (outcome.is === 'later' && (later.is !== 'later' || later.within < outcome.within)) later = outcome;
  }
  return later;
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
    let before = begin + noise + rhythmAt(rhythm, end);
    for (let n = 1; n <= most; n++) {
      noise = keeps * noise + shake * drawn();
      const at = end + n * stride * step;
      const value = begin + slope * n * stride + noise + rhythmAt(rhythm, at);
      if (value >= limit) {
        // between two steps it goes straight
        const part = value > before ? Math.min(1, Math.max(0, (limit - before) / (value - before))) : 1;
        time = at - (1 - part) * stride * step;
        break;
      }
      before = value;
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
