import { percentileOfBuckets, shareBelow } from '../../statistics/index.ts';
import type { DurationMs, EpochMs } from '../../units/index.ts';
import { type Node, type Plan, type Read, walk } from '../node.ts';
import { WrongMeasure } from '../problem.ts';
import type { Step, Stretch } from '../tree.ts';
import { amountOf, durationMs } from '../units.ts';
import { across, percentileAcross, ranked, totalOfBuckets } from './across.ts';
import { ofBuckets, satisfaction } from './buckets.ts';
import { binEnds, binOf } from './calendar.ts';
import type { Context, ObjectLabels } from './context.ts';
import { growthAt, resetsOf } from './growth.ts';
import { emptyLine, type HistogramIn, isThere, type Line, PARTIAL, type SeriesIn } from './lines.ts';
import { OPERATE, paired, type Side } from './pairing.ts';
import { filled, kept } from './points.ts';
import { Readings } from './readings.ts';
import { relabelled } from './relabel.ts';
import { forecast, timeUntil, usual } from './trendSteps.ts';
import { growthPoint, type OverTimeStep, pointOver, windowOf } from './windows.ts';

/** What was read for a plan, and when it is asked for. */
export interface Asked {
  /** Of a read; a histogram's buckets come together. */
  readonly series: (read: Read) => readonly SeriesIn[];
  readonly histograms: (read: Read) => readonly HistogramIn[];
  readonly objectLabels?: ObjectLabels;
  /** Moments that lines are asked for, ascending: a grid, or one instant. */
  readonly times: Float64Array;
  readonly instant: boolean;
  /** Called now and then while it works, with how many values it touched; throws to end it. */
  readonly worked?: (values: number) => void;
}
export interface Evaluated {
  /** The moments that the lines have values for: those that were asked for, ends of calendar bins, or further ahead. */
  readonly times: Float64Array;
  readonly lines: readonly Line[];
  /** Windows that were widened to two intervals, bounds that differ, days that were too few: in words. */
  readonly notes: readonly string[];
}

/** Values of a checked body. Throws a `WrongMeasure` where lines cannot be paired. */
export function evaluateMeasure(plan: Plan, asked: Asked): Evaluated {
  const evaluation = new Evaluation(asked, plan.result);
  return { times: evaluation.times, lines: evaluation.at(plan.result, evaluation.times), notes: [...evaluation.notes] };
}
/** What one step made, and what it took. */
export interface StepDone {
  readonly lines: readonly Line[];
  /** In the unit of `clock`; what it comes from not included, unless that is worked out within the step. */
  readonly took: number;
}
/** The result and, in their order, the steps that lead to it. */
export function explainMeasure(
  plan: Plan,
  asked: Asked,
  clock: () => number,
): { readonly result: Evaluated; readonly steps: readonly StepDone[] } {
  const evaluation = new Evaluation(asked, plan.result);
  const { times } = evaluation;
  const steps = plan.steps.map(({ node }) => {
    const began = clock();
    const lines = evaluation.at(node, times);
    return { lines, took: clock() - began };
  });
  return { result: { times, lines: evaluation.at(plan.result, times), notes: [...evaluation.notes] }, steps };
}

/** Steps that change labels only: what is computed over time is computed below them. */
const OF_LABELS: ReadonlySet<Step['step']> = new Set([
  'where',
  'rename label',
  'shorten label',
  'called',
  'add labels',
  'treat as counter',
  'whatever the scope',
  'missing counts 0',
]);

/** Nobody's window makes more than this of one line. */
export const MOST_MOMENTS = 50_000;
/** Points that a forecast goes on for. */
const MOST_AHEAD = 400;

class Evaluation implements Context {
  readonly notes = new Set<string>();
  readonly times: Float64Array;
  readonly end: EpochMs;
  readonly instant: boolean;
  readonly objectLabels: ObjectLabels | undefined;
  private readonly known = new Map<Node, Map<Float64Array, readonly Line[]>>();
  readonly readings: Readings;
  private readonly asked: Asked;

  constructor(asked: Asked, result: Node) {
    this.asked = asked;
    this.instant = asked.instant;
    this.objectLabels = asked.objectLabels;
    this.end = asked.times.at(-1) ?? 0;
    const { series, histograms } = asked;
    this.readings = new Readings({ end: this.end, series, histograms, worked: (values) => this.worked(values) });
    this.times = this.timesOf(result);
  }
  /** Ends of calendar bins where there are some, and as far ahead as a forecast goes. */
  private timesOf(result: Node): Float64Array {
    const { times, instant } = this.asked;
    const bins = new Map<string, Extract<Stretch, { by: unknown }>>();
    let later = 0;
    walk(result, (node) => {
      if (node.is !== 'step') return;
      const { step } = node;
      if ('stretch' in step && 'by' in step.stretch) bins.set(`${step.stretch.by} ${step.stretch.zone}`, step.stretch);
      if (step.step === 'forecast' && !instant) later = Math.max(later, durationMs(step.ahead));
    });
    let own = times;
    if (bins.size > 0 && !instant) {
      const ends = [...bins.values()].flatMap(({ by, zone }) => binEnds(by, zone, times[0]! - 1, this.end));
      own = Float64Array.from([...new Set([...ends, this.end])].sort((a, b) => a - b));
    }
    if (later === 0) return own;
    const step = Math.max(later / MOST_AHEAD, own.length > 1 ? own.at(-1)! - own.at(-2)! : later);
    const more: number[] = [];
    for (let at = this.end + step; at <= this.end + later && more.length < MOST_AHEAD; at += step) more.push(at);
    return Float64Array.from([...own, ...more]);
  }
  worked(values: number): void {
    this.asked.worked?.(values);
  }

  at(node: Node, times: Float64Array): readonly Line[] {
    let own = this.known.get(node);
    if (!own) {
      own = new Map();
      this.known.set(node, own);
    }
    let lines = own.get(times);
    if (!lines) {
      lines = this.compute(node, times);
      own.set(times, lines);
      this.worked(lines.length * times.length);
    }
    return lines;
  }
  private compute(node: Node, times: Float64Array): readonly Line[] {
    switch (node.is) {
      case 'number': {
        const line = emptyLine({}, times.length);
        line.values.fill(node.value);
        line.marks.fill(0);
        return [line];
      }
      case 'read':
        return node.kind === 'histogram'
          ? this.readings.histogramsAt(node.read, times)
          : this.readings.seriesAt(node.read, times);
      case 'minus':
        return this.at(node.of, times).map((line) => ({ ...line, values: line.values.map((value) => -value) }));
      case 'operator':
        return this.pair(node.left, node.right, times, OPERATE[node.operator], node.pairedBy);
      case 'smaller':
        return this.pair(node.left, node.right, times, Math.min, null);
      case 'larger':
        return this.pair(node.left, node.right, times, Math.max, null);
      case 'step':
        return this.stepAt(node, times);
    }
  }
  private pair(
    left: Node,
    right: Node,
    times: Float64Array,
    compute: (a: number, b: number) => number | null,
    by: readonly string[] | null,
  ): Line[] {
    const side = (node: Node): Side =>
      node.is === 'number'
        ? { lines: [], number: node.value, missingIsZero: false }
        : { lines: this.at(node, times), number: null, missingIsZero: node.missingIsZero };
    return paired(side(left), side(right), compute, by, times.length);
  }

  // ---- steps --------------------------------------------------------------------------------------------------------

  private stepAt(node: Extract<Node, { is: 'step' }>, times: Float64Array): readonly Line[] {
    const { step, of } = node;
    switch (step.step) {
      case 'where':
      case 'rename label':
      case 'shorten label':
      case 'called':
      case 'add labels':
      case 'treat as counter':
      case 'whatever the scope':
      case 'missing counts 0':
        return relabelled(step, this.at(of, times), times, this);
      case 'growth':
      case 'per second':
      case 'change':
      case 'slope':
      case 'over time':
      case 'percentile over time':
      case 'time above':
      case 'time below':
        return this.overTimeAt(node, of, step, times);
      case 'across':
        return of.kind === 'histogram'
          ? this.bucketsTogether(this.at(of, times), step.across)
          : across(this.at(of, times), step.what, step.across);
      case 'percentile across':
        return percentileAcross(this.at(of, times), step.percentile, step.across);
      case 'percentile of buckets':
        return this.grouped(of, times, step.across).map((line) =>
          ofBuckets(line, (own) => percentileOfBuckets(own, step.percentile)),
        );
      case 'share below of buckets':
        return this.grouped(of, times, step.across).map((line) =>
          ofBuckets(line, (own) => shareBelow(own, amountOf(step.bound).value)),
        );
      case 'satisfaction':
        return this.grouped(of, times, step.across).map((line) =>
          ofBuckets(line, (own) => satisfaction(own, amountOf(step.target).value)),
        );
      case 'top':
      case 'bottom':
        return ranked(this.at(of, times), step.count, step.step === 'top');
      case 'keep above':
      case 'keep below':
        return kept(this.at(of, times), amountOf(step.bound).value, step.step === 'keep above');
      case 'earlier': {
        const by = durationMs(step.by);
        return this.at(of, this.shifted(times, by));
      }
      case 'fill gaps':
        return filled(this, of, step, times);
      case 'forecast':
        return forecast(this, of, step, times);
      case 'time until':
        return timeUntil(this, of, step, times);
      case 'usual':
        return usual(this, of, step, times);
    }
  }
  private readonly shifts = new Map<string, Float64Array>();
  /** One list for the same times and the same shift, so that what is computed of it is known. */
  private shifted(times: Float64Array, by: DurationMs): Float64Array {
    const key = `${times.length} ${times[0]} ${times.at(-1)} ${by}`;
    let own = this.shifts.get(key);
    if (!own) {
      own = times.map((at) => at - by);
      this.shifts.set(key, own);
    }
    return own;
  }

  private overTimeAt(node: Node, of: Node, step: OverTimeStep, times: Float64Array): readonly Line[] {
    if (of.is === 'step' && OF_LABELS.has(of.step.step))
      return relabelled(of.step, this.overTimeAt(node, of.of, step, times), times, this);
    if (of.is === 'step' && of.step.step === 'earlier')
      return this.overTimeAt(node, of.of, step, this.shifted(times, durationMs(of.step.by)));
    if (of.is === 'read' && of.kind === 'histogram') return this.histogramGrowth(of.read, step, times);
    const series = of.is === 'read' ? this.asked.series(of.read) : this.derived(of, step.stretch, times);
    const names = of.is === 'read' ? null : this.derivedNames;
    const lines = this.readings.each(series, times, (own, at) => pointOver(this, own, step, at));
    return names === null ? lines : lines.map((line, i) => ({ ...line, name: names.get(series[i]!) ?? null }));
  }
  nameOf(series: SeriesIn): string | null {
    return this.derivedNames.get(series) ?? null;
  }
  private readonly derivedNames = new Map<SeriesIn, string | null>();
  private readonly derivedOf = new Map<Node, Map<string, readonly SeriesIn[]>>();
  /** Lines as samples at whole multiples of the largest interval of everything that they come from. */
  private derived(node: Node, stretch: Stretch, times: Float64Array): readonly SeriesIn[] {
    const interval = this.readings.intervalOf(node);
    const [first, last] = [times[0] ?? 0, Math.min(this.end, times.at(-1) ?? 0)];
    const from =
      'over' in stretch
        ? first - Math.max(durationMs(stretch.over), 2 * interval)
        : binOf(stretch.by, stretch.zone, first).from;
    return this.samplesBetween(node, from - 3 * interval, last, interval);
  }
  samplesBetween(node: Node, from: EpochMs, to: EpochMs, step: DurationMs): readonly SeriesIn[] {
    const key = `${from} ${to} ${step}`;
    const all = this.derivedOf.get(node) ?? new Map<string, readonly SeriesIn[]>();
    this.derivedOf.set(node, all);
    let own = all.get(key);
    if (own) return own;
    const begin = Math.ceil(from / step);
    const many = Math.floor(to / step) - begin + 1;
    if (many > MOST_MOMENTS)
      throw new WrongMeasure(
        `a step over time looks at ${many} moments of what was computed before it, ${step / 1000} s apart; ${MOST_MOMENTS} is the most. Choose a shorter window, or take the step over time first`,
      );
    const moments = Float64Array.from(
      { length: Math.max(0, Math.floor(to / step) - begin + 1) },
      (_, i) => (begin + i) * step,
    );
    own = this.at(node, moments).map((line): SeriesIn => {
      const there: number[] = [];
      for (let i = 0; i < moments.length; i++) if (isThere(line.marks, i)) there.push(i);
      const series = {
        labels: line.labels,
        interval: step,
        times: new Float64Array(there.map((i) => moments[i]!)),
        values: new Float64Array(there.map((i) => line.values[i]!)),
        marks: new Uint8Array(there.map((i) => line.marks[i]!)),
      };
      this.derivedNames.set(series, line.name);
      return series;
    });
    all.set(key, own);
    return own;
  }

  private histogramGrowth(read: Read, step: OverTimeStep, times: Float64Array): Line[] {
    if (step.step !== 'growth' && step.step !== 'per second') throw new WrongMeasure(`“${step.step}” takes no buckets`);
    const kind = step.step;
    return this.asked.histograms(read).map((own) => {
      const resets = new Set(own.parts.flatMap(resetsOf));
      return this.readings.bucketLine(own, times, (part, at) => {
        const { from, to, running } = windowOf(this, step.stretch, at, part);
        const point = growthPoint(growthAt(this.readings.countsOf(part, resets), to, to - from), kind);
        return point === null || point === 'missed' || !running ? point : { ...point, marks: point.marks | PARTIAL };
      });
    });
  }
  private grouped(of: Node, times: Float64Array, own: Parameters<typeof across>[2] | null): readonly Line[] {
    const lines = this.at(of, times);
    return own === null ? lines : this.bucketsTogether(lines, own);
  }
  private bucketsTogether(lines: readonly Line[], own: Parameters<typeof across>[2]): readonly Line[] {
    const bounds = new Set(lines.flatMap(({ buckets }) => (buckets ? [buckets.bounds.join()] : [])));
    if (bounds.size > 1)
      this.notes.add('Histograms whose bounds differ were taken together at the bounds that they have in common.');
    return totalOfBuckets(lines, own);
  }
}
