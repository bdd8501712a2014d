import type { MeasureAnswer } from '@zetopsis/contract';
import {
  formatBytes,
  formatCores,
  formatDuration,
  formatLatency,
  formatNumber,
  formatPercent,
  formatRate,
} from '@zetopsis/core/format';
import { csvOfRows } from '../../drawing/csv.ts';

export type MeasureLine = MeasureAnswer['series'][number];
type Labels = MeasureLine['labels'];

/** Labels that tell lines apart: those that do not have one value on all of them. */
function differing(lines: readonly { readonly labels: Labels }[]): string[] {
  const names = new Set(lines.flatMap(({ labels }) => Object.keys(labels)));
  return [...names].filter((name) => new Set(lines.map(({ labels }) => labels[name] ?? '')).size > 1).sort();
}
/** What names each line: as the measure says, else by what differs; a line alone by all that it bears. */
export function captionsOf(lines: readonly MeasureLine[]): string[] {
  const told = lines.length > 1 ? differing(lines) : Object.keys(lines[0]?.labels ?? {}).sort();
  return lines.map(({ name, labels }) => {
    if (name !== null && name !== '') return name;
    const parts = told.flatMap((label) => ((labels[label] ?? '') === '' ? [] : [labels[label]!]));
    return parts.length === 0 ? 'all of it' : parts.join(' · ');
  });
}

/** A value in the unit that it is counted in, or as it is asked for. */
export function valueWords(value: number | null, unit: string, shownAs: string | null): string {
  if (value === null) return 'no value';
  if (shownAs === 'percent') return formatPercent(value);
  switch (unit) {
    case 'bytes':
      return formatBytes(value);
    case 'bytes per second':
      return `${formatBytes(value)} per s`;
    case 'cores':
      return formatCores(value);
    case 'seconds':
      return Math.abs(value) < 60 ? formatLatency(value) : formatDuration(value * 1000);
    case 'per second':
      return formatRate(value);
    case '':
      return formatNumber(value);
    default:
      return `${formatNumber(value)} ${unit}`;
  }
}
export const lastOf = ({ points }: MeasureLine): MeasureLine['points'][number] | undefined =>
  points.findLast(([, value, flags]) => value !== null || flags !== undefined);

/** Largest last value first; what has none comes last. */
export function byLast(lines: readonly MeasureLine[]): MeasureLine[] {
  const of = (line: MeasureLine) => line.points.at(-1)?.[1] ?? null;
  return [...lines].sort((a, b) => (of(b) ?? Number.NEGATIVE_INFINITY) - (of(a) ?? Number.NEGATIVE_INFINITY));
}

/** So many lines have an ink of their own; those behind them are thin and grey; no more are drawn. */
export const INKS = 4;
export const DRAWN = 40;
export type ChartPoint = Readonly<Record<string, number | null>> & { readonly at: number };
/** One point a moment, with the value of each line: `value0`, `value1`, … */
export function chartPoints(lines: readonly MeasureLine[]): ChartPoint[] {
  const [first] = lines;
  if (!first) return [];
  return first.points.map(([at], i) => {
    const point: Record<string, number | null> & { at: number } = { at };
    lines.slice(0, DRAWN).forEach((line, n) => {
      point[`value${n}`] = line.points[i]?.[1] ?? null;
    });
    return point;
  });
}
/** Least and most of what is drawn; 0 lies within unless everything is far from it. */
export function domainOf(lines: readonly MeasureLine[]): readonly [number, number] {
  let least = 0;
  let most = 0;
  for (const { points } of lines.slice(0, DRAWN))
    for (const [, value] of points)
      if (value !== null) {
        if (value < least) least = value;
        if (value > most) most = value;
      }
  return least === most ? [least, most + 1] : [least, most + (most - least) * 0.06];
}

/** Stretches in which no line has a value, as shares of the window: nothing was read there, or nothing was there. */
export function gapsIn(lines: readonly MeasureLine[]): readonly { readonly from: number; readonly to: number }[] {
  const count = lines[0]?.points.length ?? 0;
  if (count < 2) return [];
  const gaps: { from: number; to: number }[] = [];
  let begun = -1;
  for (let i = 0; i <= count; i++) {
    const empty = i < count && lines.every(({ points }) => points[i]?.[1] == null);
    if (empty && begun < 0) begun = i;
    if (empty || begun < 0) continue;
    gaps.push({ from: Math.max(0, begun - 1) / (count - 1), to: Math.min(i, count - 1) / (count - 1) });
    begun = -1;
  }
  return gaps;
}

/** A row a moment, a column a line. */
export function csvOf(lines: readonly MeasureLine[]): string {
  const captions = captionsOf(lines);
  const head = captions.map((caption, i) => `${caption}${lines[i]!.unit === '' ? '' : ` (${lines[i]!.unit})`}`);
  const moments = lines[0]?.points ?? [];
  return csvOfRows([
    ['time', ...head],
    ...moments.map(([at], i) => [new Date(at).toISOString(), ...lines.map(({ points }) => points[i]?.[1] ?? null)]),
  ]);
}
