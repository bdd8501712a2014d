import type { Body, Chain, Expression, Labels, SeriesIn, Step, Stretch } from '../src/measures/index.ts';
import { isEndMarker } from '../src/samples/index.ts';

/**
 * A second writing of what design/measures.md says, as plain as can be: everything is worked out anew for every moment, with
 * loops over all samples. It knows the steps that need no calendar, no trend and no buckets; units are not looked at.
 */
export interface NaiveLine {
  readonly labels: Labels;
  /** Null: no value. */
  readonly values: readonly (number | null)[];
}
type World = (name: string) => readonly SeriesIn[];
interface Read {
  readonly labels: Labels;
  readonly interval: number;
  readonly times: readonly number[];
  readonly values: Float64Array;
  readonly starts: readonly number[];
  readonly born: boolean;
}
const UNITS = { s: 1000, m: 60_000, h: 3_600_000, d: 86_400_000, w: 604_800_000 } as const;
const ms = (own: { readonly value: number; readonly unit: keyof typeof UNITS }): number => own.value * UNITS[own.unit];
const over = (stretch: Stretch): number => {
  if (!('over' in stretch)) throw new Error('no calendar here');
  return ms(stretch.over);
};

function readOf(series: SeriesIn): Read {
  return {
    labels: series.labels,
    interval: series.interval,
    times: Array.from(series.times),
    values: Float64Array.from(series.values),
    starts: series.starts ?? [],
    born: (series.created ?? []).length > 0,
  };
}
/** Samples without ends, with their places. */
const numbers = new WeakMap<Read, readonly { at: number; value: number }[]>();
function numbersOf(read: Read): readonly { at: number; value: number }[] {
  const own =
    numbers.get(read) ??
    read.times.flatMap((at, i) => (isEndMarker(read.values[i]!) ? [] : [{ at, value: read.values[i]! }]));
  numbers.set(read, own);
  return own;
}
const endsOf = ({ times, values }: Read): number[] => times.filter((_, i) => isEndMarker(values[i]!));

/** How long a sample holds: two and a half of the intervals, or of the spacing around it where that is clearly wider. */
function holds(all: readonly { at: number }[], place: number, interval: number): number {
  const late = 2.5 * interval;
  if (all.length < 3) return late;
  const middle = Math.min(Math.max(place, 1), all.length - 2);
  const gap = Math.min(all[middle]!.at - all[middle - 1]!.at, all[middle + 1]!.at - all[middle]!.at);
  if (gap < Math.min(60_000, 4 * interval) || 2.5 * gap <= 2 * late) return late;
  return Math.max(late, Math.min(9_000_000, 2.5 * gap));
}
/** How far apart samples lie around a moment. */
function apartAt(read: Read, at: number): number {
  const all = read.times.map((time) => ({ at: time }));
  const place = Math.max(
    0,
    all.findLastIndex((one) => one.at <= at),
  );
  return Math.max(read.interval, holds(all, place, read.interval) > 2.5 * read.interval ? gapAround(all, place) : 0);
}
function gapAround(all: readonly { at: number }[], place: number): number {
  const middle = Math.min(Math.max(place, 1), all.length - 2);
  return Math.min(all[middle]!.at - all[middle - 1]!.at, all[middle + 1]!.at - all[middle]!.at);
}
function valueAt(read: Read, at: number): number | null {
  const all = numbersOf(read);
  const place = all.findLastIndex((one) => one.at <= at);
  if (place < 0) return null;
  const last = all[place]!;
  if (endsOf(read).some((end) => end > last.at && end <= at)) return null;
  return at - last.at > holds(all, place, read.interval) ? null : last.value;
}
const mean = (values: readonly number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length;
function figure(what: string, values: readonly number[]): number {
  const known = values.filter((value) => !Number.isNaN(value));
  switch (what) {
    case 'total':
      return values.reduce((sum, value) => sum + value, 0);
    case 'count':
      return values.length;
    case 'average':
      return mean(values);
    case 'highest':
      return known.length === 0 ? Number.NaN : Math.max(...known);
    case 'lowest':
      return known.length === 0 ? Number.NaN : Math.min(...known);
    case 'deviation':
      return Math.sqrt(mean(values.map((value) => (value - mean(values)) ** 2)));
    default:
      throw new Error(what);
  }
}
function percentileOf(values: readonly number[], percent: number): number {
  if (values.some(Number.isNaN)) return Number.NaN;
  const sorted = [...values].sort((a, b) => a - b);
  const rank = (percent / 100) * (sorted.length - 1);
  const low = Math.floor(rank);
  return sorted[low]! + (sorted[Math.min(sorted.length - 1, low + 1)]! - sorted[low]!) * (rank - low);
}

/** What was counted from one sample to the next. */
function grown(read: Read, before: { at: number; value: number }, now: { at: number; value: number }): number {
  const began = read.starts.some((start) => start > before.at && start <= now.at);
  return began || now.value < before.value ? now.value : now.value - before.value;
}
/** Between the samples that are used; a birth counts as a sample of 0. */
function growth(read: Read, at: number, length: number): { value: number; between: number } | null {
  const samples = numbersOf(read);
  const all = read.born && samples.length > 0 ? [{ at: samples[0]!.at - BORN_BEFORE, value: 0 }, ...samples] : samples;
  const end = all.findLastIndex((one) => one.at <= at);
  if (end < 0 || at - all[end]!.at > holds(all, end, read.interval)) return null;
  let begin = all.findLastIndex((one) => one.at <= at - length);
  if (begin < 0 || at - length - all[begin]!.at > holds(all, begin, read.interval))
    begin = all.findIndex((one) => one.at > at - length);
  let value = 0;
  for (let i = begin + 1; i <= end; i++) value += grown(read, all[i - 1]!, all[i]!);
  return { value, between: all[end]!.at - all[begin]!.at };
}
/** So long before its first sample a counter of these worlds was born. */
const BORN_BEFORE = 2000;

function overTime(read: Read, step: Step, at: number): number | null {
  if (!('stretch' in step)) throw new Error(step.step);
  const length = Math.max(over(step.stretch), 2 * apartAt(read, at));
  const all = numbersOf(read);
  const within = all.flatMap((one, i) => (one.at > at - length && one.at <= at ? [{ ...one, i }] : []));
  const values = within.map(({ value }) => value);
  switch (step.step) {
    case 'growth':
      return growth(read, at, length)?.value ?? null;
    case 'per second': {
      const own = growth(read, at, length);
      return own === null || own.between <= 0 ? null : own.value / (own.between / 1000);
    }
    case 'over time':
      if (within.length === 0) return null;
      if (step.what === 'latest') return values.at(-1)!;
      if (step.what === 'average') {
        const weights = within.map(({ at: time, i }) =>
          i === 0 ? read.interval : Math.min(read.interval, time - all[i - 1]!.at),
        );
        return (
          values.reduce((sum, value, i) => sum + value * weights[i]!, 0) / weights.reduce((sum, own) => sum + own, 0)
        );
      }
      return figure(step.what, values);
    case 'percentile over time':
      return within.length === 0 ? null : percentileOf(values, step.percentile);
    case 'change': {
      const last = valueAt(read, at);
      if (last === null) return null;
      const before = valueAt(read, at - length);
      if (before !== null) return last - before;
      return within.length === 0 ? null : last - values[0]!;
    }
    case 'slope': {
      if (within.length < 2) return null;
      const times = within.map(({ at: time }) => (time - within[0]!.at) / 1000);
      const [t, v] = [mean(times), mean(values)];
      const above = times.reduce((sum, time, i) => sum + (time - t) * (values[i]! - v), 0);
      return above / times.reduce((sum, time) => sum + (time - t) ** 2, 0);
    }
    case 'time above':
    case 'time below': {
      const bound = step.bound.value;
      let covered = 0;
      let beyond = 0;
      const ends = endsOf(read);
      all.forEach((one, i) => {
        const until = Math.min(
          all[i + 1]?.at ?? Number.POSITIVE_INFINITY,
          ends.find((end) => end > one.at) ?? Number.POSITIVE_INFINITY,
          one.at + holds(all, i, read.interval),
          at,
        );
        const span = until - Math.max(one.at, at - length);
        if (span <= 0 || Number.isNaN(one.value)) return;
        covered += span;
        if (step.step === 'time above' ? one.value > bound : one.value < bound) beyond += span;
      });
      return covered === 0 ? null : beyond / covered;
    }
    default:
      throw new Error('a step that is not known here');
  }
}

const keyOf = (labels: Labels): string =>
  JSON.stringify(
    Object.entries(labels)
      .filter(([, value]) => value !== '')
      .sort(),
  );
const OF_LABELS = new Set(['where', 'rename label', 'missing counts 0', 'treat as counter']);
const OVER_TIME = new Set([
  'growth',
  'per second',
  'over time',
  'percentile over time',
  'change',
  'slope',
  'time above',
  'time below',
]);

/** Values of a body at some moments. `interval`: of everything that is read; `end`: nothing after it. */
export class Naive {
  private readonly bound = new Map<string, Chain>();
  private readonly world: World;
  private readonly interval: number;
  private readonly end: number;
  constructor(world: World, interval: number, end: number) {
    this.world = world;
    this.interval = interval;
    this.end = end;
  }

  lines(body: Body, times: readonly number[]): NaiveLine[] {
    for (const { name, chain } of body.bindings) this.bound.set(name, chain);
    return body.result.is === 'chain'
      ? this.chain(body.result.chain, times)
      : this.expression(body.result.expression, times).lines;
  }
  private chain({ source, steps }: Chain, times: readonly number[]): NaiveLine[] {
    const last = steps.at(-1);
    const before: Chain = { source, steps: steps.slice(0, -1) };
    if (last === undefined) {
      if (source.is === 'from') return this.expression(source.expression, times).lines;
      return this.reads(source).map((read) => ({
        labels: read.labels,
        values: times.map((at) => (at > this.end ? null : valueAt(read, at))),
      }));
    }
    if (OVER_TIME.has(last.step)) return this.overTime(before, last, times);
    if (last.step === 'earlier')
      return this.chain(
        before,
        times.map((at) => at - ms(last.by)),
      );
    const lines = this.chain(before, times);
    switch (last.step) {
      case 'where':
        return lines.filter(({ labels }) =>
          last.where.every((one) => one.is === 'is' && (labels[one.label] ?? '') === one.text),
        );
      case 'rename label':
        return lines.map(({ labels, values }) => {
          const { [last.label]: own, ...rest } = labels;
          return { labels: own === undefined ? labels : { ...rest, [last.to]: own }, values };
        });
      case 'missing counts 0':
      case 'treat as counter':
        return lines;
      case 'across':
        return this.across(lines, last.across, (values) => figure(last.what, values));
      case 'percentile across':
        return this.across(lines, last.across, (values) => percentileOf(values, last.percentile));
      case 'keep above':
        return lines.map(({ labels, values }) => ({
          labels,
          values: values.map((value) => (value !== null && value > last.bound.value ? value : null)),
        }));
      case 'keep below':
        return lines.map(({ labels, values }) => ({
          labels,
          values: values.map((value) => (value !== null && value < last.bound.value ? value : null)),
        }));
      case 'top':
      case 'bottom':
        return ranked(lines, last.count, last.step === 'top');
      case 'fill gaps':
        return this.filled(before, lines, last, times);
      default:
        throw new Error('a step that is not known here');
    }
  }
  private reads(source: Chain['source']): Read[] {
    if (source.is !== 'metric') throw new Error(source.is);
    return this.world(source.name).map(readOf);
  }
  /** Steps of labels in front are done afterwards: what is computed over time is computed of what was read. */
  private overTime(before: Chain, step: Step, times: readonly number[]): NaiveLine[] {
    const last = before.steps.at(-1);
    if (last && OF_LABELS.has(last.step)) {
      const under = this.overTime({ ...before, steps: before.steps.slice(0, -1) }, step, times);
      if (last.step === 'where')
        return under.filter(({ labels }) =>
          last.where.every((one) => one.is === 'is' && (labels[one.label] ?? '') === one.text),
        );
      if (last.step !== 'rename label') return under;
      return under.map(({ labels, values }) => {
        const { [last.label]: own, ...rest } = labels;
        return { labels: own === undefined ? labels : { ...rest, [last.to]: own }, values };
      });
    }
    if (last?.step === 'earlier')
      return this.overTime(
        { ...before, steps: before.steps.slice(0, -1) },
        step,
        times.map((at) => at - ms(last.by)),
      );
    const reads =
      last === undefined && before.source.is !== 'from' ? this.reads(before.source) : this.derived(before, step, times);
    return reads.map((read) => ({
      labels: read.labels,
      values: times.map((at) => (at > this.end ? null : overTime(read, step, at))),
    }));
  }
  /** At whole multiples of the interval, never at the moments that are asked for. */
  private derived(before: Chain, step: Step, times: readonly number[]): Read[] {
    if (!('stretch' in step)) throw new Error(step.step);
    const back = Math.max(over(step.stretch), 2 * this.interval) + 3 * this.interval;
    return this.samplesBetween(before, times[0]! - back, Math.min(this.end, times.at(-1)!));
  }
  private samplesBetween(before: Chain, from: number, to: number): Read[] {
    const moments: number[] = [];
    for (let n = Math.ceil(from / this.interval); n * this.interval <= to; n++) moments.push(n * this.interval);
    return this.chain(before, moments).map(({ labels, values }) => {
      const there = moments.map((at, i) => ({ at, value: values[i]! })).filter(({ value }) => value !== null);
      return {
        labels,
        interval: this.interval,
        times: there.map(({ at }) => at),
        values: Float64Array.from(there, ({ value }) => value),
        starts: [],
        born: false,
      };
    });
  }
  private filled(
    before: Chain,
    lines: readonly NaiveLine[],
    { upTo, with: way }: Extract<Step, { step: 'fill gaps' }>,
    times: readonly number[],
  ): NaiveLine[] {
    const most = ms(upTo);
    const [first, last] = [times[0]!, Math.min(this.end, times.at(-1)!)];
    const all = this.samplesBetween(before, way === 'a straight line' ? first : first - most - 3 * this.interval, last);
    return lines.map(({ labels, values }, n) => ({
      labels,
      values: values.map((value, i) => {
        const own = numbersOf(all[n]!);
        const at = times[i]!;
        if (value !== null || at > this.end) return value;
        const left = own.findLast((one) => one.at <= at);
        if (!left) return null;
        if (way !== 'a straight line') return at - left.at <= most ? (way === 'last' ? left.value : 0) : null;
        const right = own.find((one) => one.at > at);
        if (!right || right.at - left.at > most) return null;
        return left.value + ((right.value - left.value) * (at - left.at)) / (right.at - left.at);
      }),
    }));
  }
  private across(
    lines: readonly NaiveLine[],
    across: Extract<Step, { step: 'across' }>['across'],
    tell: (values: readonly number[]) => number,
  ): NaiveLine[] {
    const groups = new Map<string, { labels: Labels; own: NaiveLine[] }>();
    for (const line of lines) {
      const labels = Object.fromEntries(
        ('each' in across ? across.each : []).flatMap((name) =>
          (line.labels[name] ?? '') === '' ? [] : [[name, line.labels[name]!]],
        ),
      );
      const group = groups.get(keyOf(labels)) ?? { labels, own: [] };
      groups.set(keyOf(labels), group);
      group.own.push(line);
    }
    return [...groups.values()].map(({ labels, own }) => ({
      labels,
      values: own[0]!.values.map((_, i) => {
        const there = own.map(({ values }) => values[i]!).filter((value) => value !== null);
        return there.length === 0 ? null : tell(there);
      }),
    }));
  }

  private expression(
    own: Expression,
    times: readonly number[],
  ): { lines: NaiveLine[]; number: number | null; zero: boolean } {
    switch (own.is) {
      case 'name': {
        const chain = this.bound.get(own.name)!; // it was checked
        return {
          lines: this.chain(chain, times),
          number: null,
          zero: chain.steps.some(({ step }) => step === 'missing counts 0'),
        };
      }
      case 'number':
        return {
          lines: [{ labels: {}, values: times.map(() => own.amount.value) }],
          number: own.amount.value,
          zero: false,
        };
      case 'minus': {
        const of = this.expression(own.of, times);
        return {
          lines: of.lines.map(({ labels, values }) => ({
            labels,
            values: values.map((value) => (value === null ? null : -value)),
          })),
          number: null,
          zero: false,
        };
      }
      case 'smaller':
      case 'larger':
      case 'operator': {
        const [left, right] = [this.expression(own.left, times), this.expression(own.right, times)];
        const compute = (a: number, b: number): number | null => {
          if (own.is === 'smaller') return Math.min(a, b);
          if (own.is === 'larger') return Math.max(a, b);
          if (own.is !== 'operator') throw new Error(own.is);
          if (own.operator === '+') return a + b;
          if (own.operator === '-') return a - b;
          if (own.operator === '*') return a * b;
          return b === 0 ? null : a / b;
        };
        return { lines: paired(left, right, compute, times.length), number: null, zero: false };
      }
    }
  }
}
function ranked(lines: readonly NaiveLine[], count: number, largest: boolean): NaiveLine[] {
  const meanOf = ({ values }: NaiveLine): number => {
    const there = values.filter((value) => value !== null);
    return there.length === 0 ? Number.NaN : mean(there);
  };
  return [...lines]
    .sort((a, b) => {
      const [left, right] = [meanOf(a), meanOf(b)];
      if (Number.isNaN(left) || Number.isNaN(right))
        return Number(Number.isNaN(left)) - Number(Number.isNaN(right)) || (keyOf(a.labels) < keyOf(b.labels) ? -1 : 1);
      return (largest ? right - left : left - right) || (keyOf(a.labels) < keyOf(b.labels) ? -1 : 1);
    })
    .slice(0, count);
}
type Side = { lines: NaiveLine[]; number: number | null; zero: boolean };
function paired(left: Side, right: Side, compute: (a: number, b: number) => number | null, count: number): NaiveLine[] {
  const moments = Array.from({ length: count }, (_, i) => i);
  const told = (labels: Labels, a: NaiveLine | undefined, b: NaiveLine | undefined): NaiveLine => ({
    labels,
    values: moments.map((i) => {
      const [own, other] = [a?.values[i] ?? null, b?.values[i] ?? null];
      if (own === null && other === null) return null;
      const [x, y] = [own ?? (left.zero ? 0 : null), other ?? (right.zero ? 0 : null)];
      return x === null || y === null ? null : compute(x, y);
    }),
  });
  if (left.number !== null && right.number !== null) return [told({}, left.lines[0], right.lines[0])];
  // a number is no side with a value: nothing counts as 0 beside it
  const plain = (line: NaiveLine, own: (value: number) => number | null): NaiveLine => ({
    labels: line.labels,
    values: line.values.map((value) => (value === null ? null : own(value))),
  });
  const [a, b] = [left.number, right.number];
  if (a !== null) return right.lines.map((line) => plain(line, (value) => compute(a, value)));
  if (b !== null) return left.lines.map((line) => plain(line, (value) => compute(value, b)));
  const isOne = ({ lines }: Side) => lines.length === 1 && Object.keys(lines[0]!.labels).length === 0;
  if (isOne(right) && !isOne(left)) return left.lines.map((line) => told(line.labels, line, right.lines[0]));
  if (isOne(left) && !isOne(right)) return right.lines.map((line) => told(line.labels, left.lines[0], line));
  const keys = [...new Set([...left.lines, ...right.lines].map(({ labels }) => keyOf(labels)))];
  return keys.map((key) => {
    const of = ({ lines }: Side) => lines.find(({ labels }) => keyOf(labels) === key);
    return told((of(left) ?? of(right))!.labels, of(left), of(right));
  });
}
