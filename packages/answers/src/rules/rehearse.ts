import type { Severity } from '@zetopsis/core/findings';
import { isThere, PARTIAL } from '@zetopsis/core/measures';
import {
  ALL_CLEAR,
  againstBound,
  isAllClear,
  type LevelEffect,
  type LevelTimes,
  RULE_LEVELS,
  type RuleTimes,
  stepLevels,
  type Thresholds,
} from '@zetopsis/core/rules';
import { type DurationMs, type EpochMs, MINUTE } from '@zetopsis/core/units';
import { type JudgedLine, type MeasureCondition, verdictsAt } from './measureLines.ts';

/** Once raised, of one line. */
export interface Rehearsed {
  readonly line: number;
  /** The worst that it came to. */
  readonly severity: Severity;
  readonly since: EpochMs;
  readonly raisedAt: EpochMs;
  /** Null: it still was at the window's end. */
  readonly endedAt: EpochMs | null;
  /** The farthest that it went past its number; null where there is none. */
  readonly most: number | null;
  /** When something was told of it. */
  readonly toldAt: readonly EpochMs[];
}
export interface CurvePoint {
  readonly bound: number;
  readonly raised: number;
  readonly raisedMinutes: number;
}
export interface Rehearsal {
  readonly raised: readonly Rehearsed[];
  /** It would have been raised more often than is looked at. */
  readonly more: boolean;
  readonly curve: readonly CurvePoint[];
}
export interface RehearsalOf {
  readonly condition: MeasureCondition;
  readonly times: LevelTimes;
}

/** A rule that is raised more often than this needs no closer look. */
const MOST_RAISED = 20_000;
/** What a rule would have done over what was read, by the machine that judges it live. */
export function rehearse(moments: ArrayLike<EpochMs>, lines: readonly JudgedLine[], of: RehearsalOf): Rehearsal {
  const raised: Rehearsed[] = [];
  for (const [i, line] of lines.entries()) {
    if (raised.length >= MOST_RAISED) break;
    raised.push(...raisedOf(line, i, moments, of));
  }
  return {
    raised: raised.slice(0, MOST_RAISED),
    more: raised.length >= MOST_RAISED,
    curve: curveOf(moments, lines, of),
  };
}

function raisedOf(
  line: JudgedLine,
  index: number,
  moments: ArrayLike<EpochMs>,
  { condition, times }: RehearsalOf,
): Rehearsed[] {
  const { thresholds } = condition;
  const further = (a: number, b: number) => (thresholds.side === 'above' ? Math.max(a, b) : Math.min(a, b));
  const calm = isCalm(line, condition);
  const raised: Rehearsed[] = [];
  let states = ALL_CLEAR;
  let open = null as Open | null; // it is set in the loop below
  /** Since it began to build. */
  let most: number | null = null;
  for (let i = 0; i < moments.length; i++) {
    const clear = isAllClear(states);
    if (clear) most = null;
    // nothing begins, and nothing is there to end
    if (clear && calm(i)) continue;
    const at = moments[i]!;
    const [next, effects]: readonly [typeof states, readonly LevelEffect[]] = stepLevels({
      states,
      verdicts: verdictsAt(line, i, condition),
      at,
      times,
    });
    states = next;
    if (isThere(line.marks, i)) most = most === null ? line.values[i]! : further(most, line.values[i]!);
    if (open) open = { ...open, most };
    for (const effect of effects) {
      if (effect.tell === 'raised')
        open = { line: index, severity: effect.severity, since: effect.since, raisedAt: at, most, toldAt: [at] };
      else if (open && effect.tell === 'worse') open = { ...open, severity: 'critical', toldAt: [...open.toldAt, at] };
      else if (open && (effect.tell === 'cleared' || effect.tell === 'ended')) {
        raised.push({ ...open, endedAt: at, toldAt: [...open.toldAt, at] });
        open = null;
      }
    }
  }
  if (open) raised.push({ ...open, endedAt: null });
  return raised;
}
type Open = Omit<Rehearsed, 'endedAt'>;
/** Whether a point cannot make anything begin: most of them cannot. */
function isCalm(line: JudgedLine, { compare, thresholds }: MeasureCondition): (i: number) => boolean {
  const bounds = RULE_LEVELS.flatMap((level) => thresholds.levels[level]?.bound ?? []);
  if (compare === 'missing') return (i) => isThere(line.marks, i) && !Number.isNaN(line.values[i]);
  const first = thresholds.side === 'above' ? Math.min(...bounds) : Math.max(...bounds);
  return (i) => !isThere(line.marks, i) || !againstBound(line.values[i]!, first, thresholds.side);
}

/** Thresholds that are tried. */
const TRIED = 24;
const LOOKED_THROUGH = 20_000;
/** Shares of all values that lie on the calm side of what is tried. */
const QUANTILES = [
  0.5, 0.6, 0.7, 0.75, 0.8, 0.85, 0.9, 0.925, 0.95, 0.96, 0.97, 0.98, 0.985, 0.99, 0.9925, 0.995, 0.997, 0.998, 0.999,
  0.9995,
];

/** Of the lowest level that is set: what other numbers would have come to. Ascending; empty where nothing is compared. */
function curveOf(
  moments: ArrayLike<EpochMs>,
  lines: readonly JudgedLine[],
  { condition, times }: RehearsalOf,
): CurvePoint[] {
  const { compare, thresholds } = condition;
  const level = RULE_LEVELS.find((one) => (thresholds.levels[one]?.bound ?? null) !== null);
  const own = level && times[level];
  if (compare === 'missing' || level === undefined || own === undefined) return [];
  return boundsTried(lines, thresholds, thresholds.levels[level]!.bound!).map((bound) => {
    let raised = 0;
    let ms = 0;
    for (const line of lines) {
      const counted = countRaised(moments, line, {
        bound,
        side: thresholds.side,
        clears: clearsFor(bound, thresholds),
        times: own,
      });
      raised += counted.raised;
      ms += counted.ms;
    }
    return { bound, raised, raisedMinutes: ms / MINUTE };
  });
}
/** Where it is over moves with the number: the two stay as far apart. */
function clearsFor(bound: number, { clears, levels }: Thresholds): number | null {
  const set = levels.warning?.bound ?? levels.critical?.bound ?? null;
  return clears === null || set === null ? null : bound - (set - clears);
}
/** Numbers between which the values lie, in few figures, and the one that is set. */
function boundsTried(lines: readonly JudgedLine[], { side }: Thresholds, set: number): number[] {
  const all = lines.reduce((sum, { values }) => sum + values.length, 0);
  const every = Math.max(1, Math.floor(all / LOOKED_THROUGH));
  const some: number[] = [];
  let n = 0;
  for (const { values, marks } of lines)
    for (let i = 0; i < values.length; i++)
      if (n++ % every === 0 && isThere(marks, i) && Number.isFinite(values[i])) some.push(values[i]!);
  if (some.length === 0) return [set];
  some.sort((a, b) => a - b);
  const at = (share: number) => some[Math.min(some.length - 1, Math.floor(share * some.length))]!;
  const tried = QUANTILES.map((share) => shortened(at(side === 'above' ? share : 1 - share)));
  return [...new Set([...tried, set])].sort((a, b) => a - b).slice(0, TRIED);
}
const shortened = (value: number): number => Number(value.toPrecision(3));

/** The machine of one level over numbers, without its states: how often it is raised, and how long in all, ms. */
export function countRaised(
  moments: ArrayLike<EpochMs>,
  { values, marks }: Pick<JudgedLine, 'values' | 'marks'>,
  {
    bound,
    side,
    clears,
    times,
  }: {
    readonly bound: number;
    readonly side: 'above' | 'below';
    readonly clears: number | null;
    readonly times: RuleTimes;
  },
): { readonly raised: number; readonly ms: DurationMs } {
  let raised = 0;
  let ms = 0;
  /** Since when it holds, is raised, is over; below 0: it does not, is not. */
  let [holding, begun, over] = [-1, -1, -1];
  let readings = 0;
  for (let i = 0; i < moments.length; i++) {
    const at = moments[i]!;
    const value = values[i]!;
    const there = isThere(marks, i) && !Number.isNaN(value);
    const holds = there && againstBound(value, bound, side);
    if (begun < 0) {
      if (!holds) {
        holding = -1;
        readings = 0;
        continue;
      }
      if (holding < 0) holding = at;
      if ((marks[i]! & PARTIAL) === 0) readings++;
      if (times.readings === undefined ? at - holding < times.holds : readings < times.readings) continue;
      raised++;
      begun = at;
      over = -1;
      continue;
    }
    const past = holds || (there && clears !== null && againstBound(value, clears, side));
    if (past) over = -1;
    else if (!there) over = over < 0 ? -1 : at;
    else {
      if (over < 0) over = at;
      if (at - over < times.eases) continue;
      ms += at - begun;
      begun = -1;
      holding = -1;
      readings = 0;
    }
  }
  if (begun >= 0) ms += moments[moments.length - 1]! - begun;
  return { raised, ms };
}
