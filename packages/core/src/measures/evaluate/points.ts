import type { DurationMs, EpochMs } from '../../units/index.ts';
import type { Node } from '../node.ts';
import type { Step } from '../tree.ts';
import { durationMs } from '../units.ts';
import type { Context } from './context.ts';
import { FILLED, isThere, type Line, lastAtMost, NONE } from './lines.ts';
import type { Sampled } from './overTime.ts';

export function kept(lines: readonly Line[], bound: number, above: boolean): Line[] {
  return lines.map((line) => {
    const out = { ...line, values: line.values.slice(), marks: line.marks.slice() };
    for (let i = 0; i < out.values.length; i++)
      if (isThere(out.marks, i) && !(above ? out.values[i]! > bound : out.values[i]! < bound)) {
        out.values[i] = Number.NaN;
        out.marks[i] = NONE;
      }
    return out;
  });
}
export function filled(
  context: Context,
  of: Node,
  { upTo: most, with: way }: Extract<Step, { step: 'fill gaps' }>,
  times: Float64Array,
): Line[] {
  const upTo = durationMs(most);
  const interval = context.readings.intervalOf(of);
  const [first, last] = [times[0] ?? 0, Math.min(context.end, times.at(-1) ?? 0)];
  const lines = context.at(of, times);
  // a line of the window never looks past its ends
  const from = way === 'a straight line' ? first : first - upTo - 3 * interval;
  const samples = context.samplesBetween(of, from, last, interval).map((series) => context.readings.samplesOf(series));
  return lines.map((line, n) => {
    const own = samples[n];
    const out = { ...line, values: line.values.slice(), marks: line.marks.slice() };
    if (!own) return out;
    for (let i = 0; i < times.length; i++) {
      if (isThere(out.marks, i) || times[i]! > context.end) continue;
      const value = fillAt(own, times[i]!, upTo, way);
      if (value !== null) [out.values[i], out.marks[i]] = [value, FILLED];
    }
    return out;
  });
}

function fillAt(
  { times, values }: Sampled,
  at: EpochMs,
  upTo: DurationMs,
  way: 'last' | 'zero' | 'a straight line',
): number | null {
  const i = lastAtMost(times, at);
  if (i < 0) return null;
  if (way !== 'a straight line') return at - times[i]! <= upTo ? (way === 'last' ? values[i]! : 0) : null;
  const next = i + 1;
  if (next >= times.length || times[next]! - times[i]! > upTo) return null;
  return values[i]! + ((values[next]! - values[i]!) * (at - times[i]!)) / (times[next]! - times[i]!);
}
