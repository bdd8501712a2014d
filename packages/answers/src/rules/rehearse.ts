import type { Severity } from '@zetopsis/core/findings';
import { isThere, PARTIAL } from '@zetopsis/core/measures';
import {
  ALL_CLEAR,
  againstBound,
  bothLevels,
  isAllClear,
  type LevelEffect,
  type LevelTimes,
  RULE_LEVELS,
  type RuleTimes,
  type Side,
  stepLevels,
  type Thresholds,
  weeksIn,
} from '@zetopsis/core/rules';
import { type DurationMs, type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { type Drawn, drawnLines } from './drawn.ts';
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
  /** Of what really was trouble: nothing was raised of it. */
  readonly missed: number;
}
/** What really was trouble, with the lines that are about the same objects. */
export interface Trouble {
  readonly from: EpochMs;
  readonly to: EpochMs;
  readonly lines: readonly number[];
}
export interface Rehearsal {
  readonly raised: readonly Rehearsed[];
  /** It would have been raised more often than is looked at. */
  readonly more: boolean;
  readonly curve: readonly CurvePoint[];
  /** For each trouble, how long before it began something was raised; below 0: after; null: it was missed. */
  readonly leads: readonly (DurationMs | null)[];
  readonly drawn: Drawn;
}
export interface RehearsalOf {
  readonly condition: MeasureCondition;
  readonly times: LevelTimes;
  /** 1 at moments at which it is judged at all; null: at all of them. */
  readonly open: Uint8Array | null;
  readonly troubles: readonly Trouble[];
}
/** What is raised so long before a trouble was about it. */
const BEFORE_TROUBLE = HOUR;

/** Lines that are drawn, and stretches of time of each. */
const DRAWN = { most: 5, points: 240 } as const;

/** A rule that is raised more often than this needs no closer look. */
const MOST_RAISED = 20_000;
/** What a rule would have done over what was read, by the machine that judges it live. `told`: how much of it is done, 0 to 1. */
export function rehearse(
  moments: ArrayLike<EpochMs>,
  lines: readonly JudgedLine[],
  of: RehearsalOf,
  told: (share: number) => void = () => undefined,
): Rehearsal {
  const raised: Rehearsed[] = [];
  let passed = 0;
  const passes = lines.length * (1 + QUANTILES.length + TRIED_BETWEEN);
  const pass = () => told(Math.min(1, ++passed / passes));
  for (const [i, line] of lines.entries()) {
    if (raised.length >= MOST_RAISED) break;
    raised.push(...raisedOf(line, i, moments, of));
    pass();
  }
  return {
    raised: raised.slice(0, MOST_RAISED),
    more: raised.length >= MOST_RAISED,
    curve: curveOf(moments, lines, of, pass),
    leads: of.troubles.map((trouble) => leadOf(trouble, raised)),
    drawn: drawnLines(moments, lines, { side: of.condition.thresholds.side, ...DRAWN }),
  };
}
function leadOf({ from, to, lines }: Trouble, raised: readonly Rehearsed[]): DurationMs | null {
  const about = new Set(lines);
  const first = raised.reduce(
    (least, { line, raisedAt, endedAt }) =>
      raisedAt <= to && (endedAt === null || endedAt >= from - BEFORE_TROUBLE) && about.has(line)
        ? Math.min(least, raisedAt)
        : least,
    Number.POSITIVE_INFINITY,
  );
  return first === Number.POSITIVE_INFINITY ? null : from - first;
}

function raisedOf(
  line: JudgedLine,
  index: number,
  moments: ArrayLike<EpochMs>,
  { condition, times, open: judged }: RehearsalOf,
): Rehearsed[] {
  const thresholds = line.thresholds ?? condition.thresholds;
  const further = furtherOf(thresholds);
  const calm = isCalm(line, { ...condition, thresholds });
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
      verdicts: judged === null || judged[i] === 1 ? verdictsAt(line, i, condition) : OUTSIDE,
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
/** Outside of its hours nothing holds. */
const OUTSIDE = bothLevels({ is: 'breaks' });
/** Of two values the one that is farther past; outside of two: farther from their middle. */
function furtherOf({ side, levels }: Thresholds): (a: number, b: number) => number {
  if (side !== 'outside') return side === 'above' ? Math.max : Math.min;
  const { bound = 0, low = 0 } = levels.warning ?? levels.critical ?? {};
  const middle = ((bound ?? 0) + (low ?? 0)) / 2;
  return (a, b) => (Math.abs(b - middle) > Math.abs(a - middle) ? b : a);
}
/** Whether a point cannot make anything begin: most of them cannot. */
function isCalm(line: JudgedLine, { compare, thresholds }: MeasureCondition): (i: number) => boolean {
  const { levels, side } = thresholds;
  const edges = RULE_LEVELS.flatMap((level) => levels[level] ?? []);
  if (compare === 'missing') return (i) => isThere(line.marks, i) && !Number.isNaN(line.values[i]);
  return (i) =>
    !isThere(line.marks, i) ||
    !edges.some(({ bound, low }) => bound !== null && againstBound(line.values[i]!, bound, side, low));
}

/** Thresholds that are tried between the one that raises too often and the next one that does not. */
const TRIED_BETWEEN = 4;
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
  { condition, times, open, troubles }: RehearsalOf,
  pass: () => void,
): CurvePoint[] {
  const { compare, thresholds } = condition;
  const level = RULE_LEVELS.find((one) => (thresholds.levels[one]?.bound ?? null) !== null);
  const own = level && times[level];
  // two numbers at once make no curve
  if (compare === 'missing' || thresholds.side === 'outside' || level === undefined || own === undefined) return [];
  const troublesOf = new Map<number, Trouble[]>();
  for (const trouble of troubles)
    for (const n of trouble.lines) troublesOf.set(n, [...(troublesOf.get(n) ?? []), trouble]);
  const tried = (bound: number): CurvePoint => {
    let raised = 0;
    let ms = 0;
    const caught = new Set<Trouble>();
    for (const [n, line] of lines.entries()) {
      const about = troublesOf.get(n) ?? [];
      // what has numbers of its own stays at them
      const at = line.thresholds?.levels[level]?.bound ?? bound;
      const counted = countRaised(moments, line, {
        bound: at,
        side: thresholds.side,
        clears: clearsFor(at, thresholds),
        times: own,
        open,
        onRaised: (from, to) => {
          for (const trouble of about)
            if (from <= trouble.to && to >= trouble.from - BEFORE_TROUBLE) caught.add(trouble);
        },
      });
      raised += counted.raised;
      ms += counted.ms;
      pass();
    }
    return { bound, raised, raisedMinutes: ms / MINUTE, missed: troubles.length - caught.size };
  };
  const curve = boundsTried(lines, thresholds, thresholds.levels[level]!.bound!).map(tried);
  // where it turns from too often to seldom enough it is looked at more closely
  const side = thresholds.side === 'below' ? 'below' : 'above';
  const weeks = weeksIn(moments[0] ?? 0, moments[moments.length - 1] ?? 0);
  const isQuiet = ({ raised }: CurvePoint) => raised <= weeks;
  for (let i = 0; i < TRIED_BETWEEN; i++) {
    const quiet = side === 'above' ? curve.findIndex(isQuiet) : curve.findLastIndex(isQuiet);
    const loud = curve[side === 'above' ? quiet - 1 : quiet + 1];
    if (quiet < 0 || loud === undefined) break;
    const bound = shortened((loud.bound + curve[quiet]!.bound) / 2);
    if (curve.some((one) => one.bound === bound)) break;
    curve.splice(side === 'above' ? quiet : quiet + 1, 0, tried(bound));
  }
  return curve;
}
/** Where it is over moves with the number: the two stay as far apart. */
function clearsFor(bound: number, { clears, levels }: Thresholds): number | null {
  const set = levels.warning?.bound ?? levels.critical?.bound ?? null;
  return clears.bound === null || set === null ? null : bound - (set - clears.bound);
}
/** Numbers between which the values lie, in few figures, and the one that is set. */
function boundsTried(lines: readonly JudgedLine[], { side }: Thresholds, set: number): number[] {
  const all = lines.reduce((sum, { values }) => sum + values.length, 0);
  const every = Math.max(1, Math.floor(all / LOOKED_THROUGH));
  const some: number[] = [];
  let n = 0;
  let extreme: number | null = null;
  for (const { values, marks } of lines)
    for (let i = 0; i < values.length; i++) {
      if (!isThere(marks, i) || !Number.isFinite(values[i])) continue;
      if (extreme === null || againstBound(values[i]!, extreme, side)) extreme = values[i]!;
      if (n++ % every === 0) some.push(values[i]!);
    }
  if (extreme === null) return [set];
  some.push(extreme);
  some.sort((a, b) => a - b);
  const at = (share: number) => some[Math.min(some.length - 1, Math.floor(share * some.length))]!;
  const tried = QUANTILES.map((share) => shortened(at(side === 'above' ? share : 1 - share)));
  // nothing is past the farthest of all
  const farthest = shortenedAway(side === 'above' ? some.at(-1)! : some[0]!, side);
  return [...new Set([...tried, farthest, set])].sort((a, b) => a - b);
}
const shortened = (value: number): number => Number(value.toPrecision(3));
/** The same to the side that is farther past. */
function shortenedAway(value: number, side: Side): number {
  const near = shortened(value);
  if (!againstBound(value, near, side)) return near;
  const figure = 10 ** (Math.floor(Math.log10(Math.abs(value))) - 2);
  return shortened(near + (side === 'above' ? figure : -figure));
}

/** The machine of one level over numbers, without its states: how often it is raised, and how long in all, ms. */
export function countRaised(
  moments: ArrayLike<EpochMs>,
  { values, marks }: Pick<JudgedLine, 'values' | 'marks'>,
  {
    bound,
    side,
    clears,
    times,
    open,
    onRaised,
  }: {
    readonly bound: number;
    readonly side: Side;
    readonly clears: number | null;
    readonly times: RuleTimes;
    readonly open: Uint8Array | null;
    /** Once for each time that it was raised, with when it was over. */
    readonly onRaised?: (from: EpochMs, to: EpochMs) => void;
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
    const judged = open === null || open[i] === 1;
    const holds = judged && there && againstBound(value, bound, side);
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
    const past = holds || (judged && there && clears !== null && againstBound(value, clears, side));
    if (past) over = -1;
    else if (judged && !there) over = over < 0 ? -1 : at;
    else {
      if (over < 0) over = at;
      if (at - over < times.eases) continue;
      ms += at - begun;
      onRaised?.(begun, at);
      begun = -1;
      holding = -1;
      readings = 0;
    }
  }
  if (begun >= 0) {
    ms += moments[moments.length - 1]! - begun;
    onRaised?.(begun, moments[moments.length - 1]!);
  }
  return { raised, ms };
}
