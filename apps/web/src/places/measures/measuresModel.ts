import type { MeasureAnswer } from '@zetopsis/contract';

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

export const lastOf = ({ points }: MeasureLine): MeasureLine['points'][number] | undefined =>
  points.findLast(([, value, flags]) => value !== null || flags !== undefined);

/** Largest last value first; what has none comes last. */
export function byLast(lines: readonly MeasureLine[]): MeasureLine[] {
  const of = (line: MeasureLine) => line.points.at(-1)?.[1] ?? null;
  return [...lines].sort((a, b) => (of(b) ?? Number.NEGATIVE_INFINITY) - (of(a) ?? Number.NEGATIVE_INFINITY));
}

/** So many lines have an ink of their own, told apart by tone and dash; those behind them are thin and grey; no more are drawn. */
const INKS = 6;
const TONES = 4;
export const DRAWN = 40;
export const keyOf = ({ labels, name }: Pick<MeasureLine, 'labels' | 'name'>): string => JSON.stringify([labels, name]);

/** A line as all pictures and the table show it: its caption and its ink are the same everywhere. */
export interface Shown {
  readonly key: string;
  readonly line: MeasureLine;
  readonly caption: string;
  /** Null: it is one of many. */
  readonly ink: Ink | null;
}
export interface Ink {
  readonly colour: string;
  readonly dash: string | undefined;
}
const DASHES = [undefined, '6 3', '1.5 2.5'] as const;
const inkOf = (place: number): Ink => ({
  colour: `var(--series-${(place % TONES) + 1})`,
  dash: DASHES[place % DASHES.length],
});
/** What a person did with the lines. */
export interface Picks {
  readonly pinned: ReadonlySet<string>;
  readonly hidden: ReadonlySet<string>;
  /** Nothing but this one. */
  readonly only: string | null;
  /** Nothing that never gets above this; in the unit of the lines. */
  readonly above: number | null;
}
export const NO_PICKS: Picks = { pinned: new Set(), hidden: new Set(), only: null, above: null };

const highest = ({ points }: MeasureLine): number =>
  points.reduce((most, [, value]) => (value !== null && value > most ? value : most), Number.NEGATIVE_INFINITY);
/** All lines, pinned ones first, then largest last value first; the first few of those that are drawn have inks. */
export function shownLines(
  lines: readonly MeasureLine[],
  { pinned, hidden, only, above }: Picks,
): { readonly all: readonly Shown[]; readonly drawn: readonly Shown[] } {
  const names = captionsOf(lines);
  const captions = new Map(lines.map((line, i) => [line, names[i]!] as const));
  const sorted = byLast(lines);
  const ordered = [
    ...sorted.filter((line) => pinned.has(keyOf(line))),
    ...sorted.filter((line) => !pinned.has(keyOf(line))),
  ];
  const all = ordered.map((line, place): Shown => {
    const key = keyOf(line);
    return { key, line, caption: captions.get(line)!, ink: place < INKS ? inkOf(place) : null };
  });
  const drawn = all.filter(
    ({ key, line }) => !hidden.has(key) && (only === null || only === key) && (above === null || highest(line) > above),
  );
  return { all, drawn };
}

export type ChartPoint = Readonly<Record<string, number | null | readonly number[]>> & { readonly at: number };
/** One point a moment, with the value of each line: `value0`, `value1`, …; `band0` what it lies between. */
export function chartPoints(
  drawn: readonly Shown[],
  against: ReadonlyMap<string, MeasureLine> = new Map(),
): ChartPoint[] {
  const [first] = drawn;
  if (!first) return [];
  const shown = drawn.slice(0, DRAWN);
  return first.line.points.map(([at], i) => {
    const point: Record<string, number | null | readonly number[]> & { at: number } = { at };
    shown.forEach(({ line, key }, n) => {
      point[`value${n}`] = line.points[i]?.[1] ?? null;
      const own = line.band?.[i];
      if (own && own[1] !== null && own[2] !== null) point[`band${n}`] = [own[1], own[2]];
      const then = against.get(key)?.points[i]?.[1];
      if (then !== undefined && then !== null) point[`then${n}`] = then;
    });
    return point;
  });
}
/** Least and most of what is drawn, bands and what it is compared with included; 0 lies within. */
export function domainOf(points: readonly ChartPoint[]): readonly [number, number] {
  let least = 0;
  let most = 0;
  for (const { at: _, ...values } of points)
    for (const own of Object.values(values))
      for (const value of typeof own === 'number' ? [own] : (own ?? [])) {
        if (value < least) least = value;
        if (value > most) most = value;
      }
  return least === most ? [least, most + 1] : [least, most + (most - least) * 0.06];
}

/** Stretches in which no line has a value, as shares of the window: nothing was read there, or nothing was there. */
export function gapsIn(
  lines: readonly Pick<MeasureLine, 'points'>[],
): readonly { readonly from: number; readonly to: number }[] {
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
