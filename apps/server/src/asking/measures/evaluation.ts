import { type JudgedLine, type Rehearsal, type RehearsalOf, rehearse } from '@zetopsis/answers/rules';
import type { MeasureAnswer } from '@zetopsis/contract';
import {
  type Asked,
  type Evaluated,
  evaluateMeasure,
  explainMeasure,
  type HistogramIn,
  type ObjectTable,
  objectLabelsFrom,
  type Plan,
  type SeriesIn,
  unitName,
  WrongMeasure,
} from '@zetopsis/core/measures';
import { linesOf, pointsOf, whyNothing, writtenLines } from './answerLines.ts';

/** Everything that an evaluation needs: plain data, so that a thread of its own can do it. */
export interface Work {
  readonly plan: Plan;
  /** As `plan.reads`. */
  readonly series: readonly (readonly SeriesIn[])[];
  readonly histograms: readonly (readonly HistogramIn[])[];
  readonly times: Float64Array;
  readonly instant: boolean;
  readonly explain: boolean;
  /** Every line is wanted. */
  readonly all: boolean;
  /** What objects are called, for labels that are added. */
  readonly objects: ObjectTable;
  /** Series that were read. */
  readonly read: number;
  /** Lines as numbers instead of an answer, for who judges them. */
  readonly judging?: true;
}
/** What a rule would have done with lines that were worked out before. */
export interface RehearsalWork {
  readonly rehearsing: RehearsalOf;
  readonly times: Float64Array;
  readonly lines: readonly JudgedLine[];
}
/** Parts of an answer; lines and steps are JSON already, so that nobody else is held up by writing them. */
export interface Worked {
  /** `"series":[…],"left":N` in pieces of UTF-8. */
  readonly lines: readonly Uint8Array[];
  readonly steps: string;
  readonly notes: readonly string[];
  readonly nothing: string | null;
  readonly judged?: Judged;
}
export interface Judged {
  readonly times: Float64Array;
  readonly lines: readonly JudgedLine[];
}
export type Outcome<Done> = { readonly done: Done } | { readonly wrong: string };

/** `told`: how much of a rehearsal is done, 0 to 1. */
export const workOut = (work: Work | RehearsalWork, told?: (share: number) => void): Outcome<Worked | Rehearsal> =>
  'rehearsing' in work ? { done: rehearse(work.times, work.lines, work.rehearsing, told) } : evaluate(work);

function evaluate(work: Work): Outcome<Worked> {
  const { plan, series, histograms, times, instant, explain, all, objects, read, judging } = work;
  const asked: Asked = {
    series: (own: Plan['reads'][number]) => series[plan.reads.indexOf(own)] ?? [],
    histograms: (own: Plan['reads'][number]) => histograms[plan.reads.indexOf(own)] ?? [],
    objectLabels: objectLabelsFrom(objects),
    times,
    instant,
  };
  try {
    if (judging === true) {
      const result = evaluateMeasure(plan, asked);
      const nothing = whyNothing(plan, result, read);
      return { done: { lines: [], steps: '[]', notes: result.notes, nothing, judged: judgedOf(result) } };
    }
    const { result, steps } = explain ? explained(plan, asked) : { result: evaluateMeasure(plan, asked), steps: [] };
    return {
      done: {
        lines: writtenLines(result, unitName(plan.result.unit), all),
        steps: JSON.stringify(steps),
        notes: result.notes,
        nothing: whyNothing(plan, result, read),
      },
    };
  } catch (error) {
    if (error instanceof WrongMeasure) return { wrong: error.text };
    throw error;
  }
}
const judgedOf = ({ times, lines }: Evaluated): Judged => ({
  times,
  lines: lines.map(({ labels, name, values, marks }) => ({ labels, name, values, marks })),
});
/** Lines of a step that are answered with it. */
const SOME = 5;
function explained(plan: Plan, asked: Asked) {
  const { result, steps } = explainMeasure(plan, asked, () => performance.now());
  const told = plan.steps.map(({ binding, text, node }, i): MeasureAnswer['steps'][number] => {
    const { lines, took } = steps[i]!; // one for each
    return {
      binding,
      text,
      kind: node.kind,
      read: node.is === 'read' ? readOf(node.read, asked) : null,
      lines: lines.length,
      points: pointsOf(lines),
      took,
      ...linesOf({ times: result.times, lines }, unitName(node.unit), SOME),
    };
  });
  return { result, steps: told };
}
function readOf(read: Plan['reads'][number], asked: Asked) {
  const all = [...asked.series(read), ...asked.histograms(read).flatMap(({ parts }) => parts)];
  return { series: all.length, samples: all.reduce((sum, { times }) => sum + times.length, 0) };
}
/** Each once: lines may share what they are made of. */
const buffersOf = (lists: readonly ArrayLike<number>[]): ArrayBuffer[] => [
  ...new Set(
    lists.flatMap((list) => (ArrayBuffer.isView(list) && list.buffer instanceof ArrayBuffer ? [list.buffer] : [])),
  ),
];
/** What can be handed to another thread instead of being copied. */
export function movedWith(work: Work | RehearsalWork): ArrayBuffer[] {
  if ('rehearsing' in work) return buffersOf(work.lines.flatMap(({ values, marks }) => [values, marks]));
  const all = [...work.series.flat(), ...work.histograms.flat().flatMap(({ parts }) => parts)];
  return buffersOf(all.flatMap(({ times, values }) => [times, values]));
}
/** And of what comes back. */
export const movedBack = (outcome: Outcome<Worked | Rehearsal>): ArrayBuffer[] =>
  'done' in outcome && 'lines' in outcome.done ? buffersOf(outcome.done.lines) : [];
