import { DAY, type DurationMs, type EpochMs, MINUTE } from '../../units/index.ts';
import type { Node } from '../node.ts';
import type { Step } from '../tree.ts';
import { amountOf, durationMs, durationOf } from '../units.ts';
import { dayTimesIn } from './calendar.ts';
import type { Context } from './context.ts';
import { AT_LEAST, emptyLine, isThere, type Line } from './lines.ts';
import type { Point } from './overTime.ts';
import { ahead, type Before, untilBound, usualAt } from './trends.ts';

const HISTORY_POINTS = 240;
const FINEST_USUAL = 5 * MINUTE;
const USUAL_MOST = 60 * DAY;

/** Of roll-ups a trend is laid through the means of buckets. */
function meansOf({ readings }: Context, of: Node): Node {
  const bucket = readings.bucketOf(of);
  if (bucket === null) return of;
  const { kind, unit } = of;
  const step: Step = { step: 'over time', what: 'average', stretch: { over: durationOf(bucket) } };
  return { is: 'step', step, of, kind, unit, missingIsZero: false };
}
/** What was before a moment, evenly, for each line. */
function beforeOf(
  context: Context,
  of: Node,
  at: EpochMs,
  from: DurationMs,
): { readonly line: Line; readonly before: Before }[] {
  const step = Math.max(context.readings.intervalOf(of), from / HISTORY_POINTS);
  const count = Math.max(2, Math.floor(from / step) + 1);
  const start = at - (count - 1) * step;
  const moments = Float64Array.from({ length: count }, (_, i) => start + i * step);
  return context.at(meansOf(context, of), moments).map((line) => ({
    line,
    before: { start, step, values: line.values.map((value, i) => (isThere(line.marks, i) ? value : Number.NaN)) },
  }));
}
export function forecast(
  context: Context,
  of: Node,
  step: Extract<Step, { step: 'forecast' }>,
  times: Float64Array,
): Line[] {
  const [later, from] = [durationMs(step.ahead), durationMs(step.from)];
  const own = beforeOf(context, of, context.end, from);
  const now = context.instant ? null : context.at(of, times);
  return own.map(({ line, before }, n) => {
    const out = now?.[n]
      ? { ...now[n], values: now[n].values.slice(), marks: now[n].marks.slice() }
      : emptyLine(line.labels, times.length, line.name);
    const band = {
      low: new Float64Array(times.length).fill(Number.NaN),
      high: new Float64Array(times.length).fill(Number.NaN),
    };
    const tell = ahead(before, step.rhythm);
    if (tell)
      for (let i = 0; i < times.length; i++) {
        const to = context.instant ? later : times[i]! - context.end;
        if (to <= 0) continue;
        const told = tell(to);
        [out.values[i], out.marks[i]] = [told.value, 0];
        [band.low[i], band.high[i]] = [told.low, told.high];
      }
    return { ...out, band };
  });
}
export function timeUntil(
  context: Context,
  of: Node,
  step: Extract<Step, { step: 'time until' }>,
  times: Float64Array,
): Line[] {
  const [bound, from] = [amountOf(step.bound).value, durationMs(step.from)];
  return eachMoment(context, times, (at) =>
    beforeOf(context, of, at, from).map(({ line, before }) => {
      const until = untilBound(before, bound);
      return {
        line,
        point:
          until === null
            ? null
            : until === 'not soon'
              ? { value: (90 * DAY) / 1000, marks: AT_LEAST }
              : { value: until / 1000, marks: 0 },
      };
    }),
  );
}
export function usual(
  context: Context,
  of: Node,
  { from: back, zone }: Extract<Step, { step: 'usual' }>,
  times: Float64Array,
): Line[] {
  const from = Math.min(USUAL_MOST, durationMs(back));
  const dayTime = dayTimesIn(zone ?? 'UTC');
  const step = Math.max(context.readings.intervalOf(of), FINEST_USUAL);
  const [first, last] = [times[0] ?? 0, times.at(-1) ?? 0];
  const series = context.samplesBetween(meansOf(context, of), first - from, last, step);
  return series.map((own) => {
    const line = emptyLine(own.labels, times.length, context.nameOf(own));
    const band = {
      low: new Float64Array(times.length).fill(Number.NaN),
      high: new Float64Array(times.length).fill(Number.NaN),
    };
    const [begin, count] = [
      Math.ceil((first - from) / step),
      Math.floor(last / step) - Math.ceil((first - from) / step) + 1,
    ];
    const values = new Float64Array(Math.max(0, count)).fill(Number.NaN);
    for (let i = 0; i < own.times.length; i++) values[own.times[i]! / step - begin] = own.values[i]!;
    for (let i = 0; i < times.length; i++) {
      const told = usualAt(times[i]!, { start: begin * step, step, values }, dayTime);
      context.worked(values.length);
      if (told === null) continue;
      if (told.anyDay)
        context.notes.add('There were fewer than four days of the same kind: any day was taken for what is usual.');
      [line.values[i], line.marks[i]] = [told.value, 0];
      [band.low[i], band.high[i]] = [told.low, told.high];
    }
    return { ...line, band };
  });
}
/** Lines that are worked out anew for each moment. */
function eachMoment(
  context: Context,
  times: Float64Array,
  tell: (at: EpochMs) => { readonly line: Line; readonly point: Point | null }[],
): Line[] {
  const lines = new Map<string, Line>();
  for (let i = 0; i < times.length; i++) {
    if (times[i]! > context.end) break;
    for (const { line, point } of tell(times[i]!)) {
      const key = JSON.stringify([line.labels, line.name]);
      const own = lines.get(key) ?? emptyLine(line.labels, times.length, line.name);
      lines.set(key, own);
      if (point) [own.values[i], own.marks[i]] = [point.value, point.marks];
    }
  }
  return [...lines.values()];
}
