import { EVERYTHING, namesOf, type ObjectPath, readWorkloadKey, writePath } from '@zetopsis/contract';
import type { WorkloadName } from '@zetopsis/core/inventory';
import { AT_LEAST, isThere, type Labels, PARTIAL, valueWords } from '@zetopsis/core/measures';
import {
  againstLevels,
  bothLevels,
  boundPast,
  type Compare,
  type LevelVerdicts,
  type Side,
  type Thresholds,
} from '@zetopsis/core/rules';
import { OBJECT_LABELS } from '@zetopsis/core/scouting';
import type { EpochMs } from '@zetopsis/core/units';
import type { Subject } from './subject.ts';

/** A line of a measure as it is judged: values and marks at the moments. */
export interface JudgedLine {
  readonly labels: Labels;
  readonly name: string | null;
  readonly values: ArrayLike<number>;
  readonly marks: Uint8Array;
  /** Where the line has one: between which it is expected. */
  readonly band?: Band;
  /** What the values were before they became distances from what is usual. */
  readonly measured?: { readonly values: ArrayLike<number>; readonly usual: Band };
  /** Since when what holds has held, as far as the objects prove it; else since it was seen. */
  readonly since?: ArrayLike<EpochMs>;
  /** Others than the rule's own. */
  readonly thresholds?: Thresholds;
}
export interface Band {
  readonly low: ArrayLike<number>;
  readonly high: ArrayLike<number>;
}
export interface JudgedMeasure {
  /** Ascending. */
  readonly times: ArrayLike<EpochMs>;
  readonly lines: readonly JudgedLine[];
  readonly unit: string;
  readonly shownAs: string | null;
  /** What a pod belongs to, where it is known. */
  readonly workloadOf: (cluster: string, namespace: string, pod: string) => WorkloadName | null;
}
export interface MeasureCondition {
  readonly compare: Compare;
  readonly thresholds: Thresholds;
  readonly rule: string;
}
/** And how an object that it looks at is spoken of. */
export interface LineCondition extends MeasureCondition {
  readonly thresholdsAt: (path: ObjectPath) => Thresholds;
  /** A number of a level, in words; `amount`: one of the measure. */
  readonly boundWords: (bound: number, amount: (value: number) => string) => string;
  /** "comes to 100 % in" and the like before a value; empty: it "is". */
  readonly verb: string;
}

/** Where the object stands that a line is of, as far as its labels say it. */
export function pathOfLabels(labels: Labels, workloadOf: JudgedMeasure['workloadOf']): ObjectPath {
  const { cluster } = labels;
  if (cluster === undefined || cluster === '') return EVERYTHING;
  const [namespace, pod, container, node] = [
    labels[OBJECT_LABELS.namespace],
    labels['pod'] ?? labels[OBJECT_LABELS.pod],
    labels[OBJECT_LABELS.container],
    labels['node'] ?? labels[OBJECT_LABELS.node],
  ];
  if (!namespace) return node ? { is: 'node', cluster, node } : { is: 'cluster', cluster };
  const named = readWorkloadKey(`${labels['kind']?.replaceAll(' ', '-')}:${labels['workload']}`);
  const workload = named ?? (pod ? workloadOf(cluster, namespace, pod) : null);
  if (workload === null) return { is: 'namespace', cluster, namespace };
  const place = { cluster, namespace, workload };
  if (!pod) return { is: 'workload', ...place };
  return container
    ? { is: 'container', ...place, node: null, pod, container }
    : { is: 'pod', ...place, node: null, pod };
}

/** The same for the same line, whatever the order of its labels. */
export const lineKey = ({ labels, name }: Pick<JudgedLine, 'labels' | 'name'>): string =>
  JSON.stringify([Object.entries(labels).sort(([a], [b]) => (a < b ? -1 : 1)), name]);
/** Labels that say where the object stands. */
const PLACED: ReadonlySet<string> = new Set([
  'cluster',
  'namespace',
  'workload',
  'kind',
  'pod',
  'node',
  'team',
  ...Object.values(OBJECT_LABELS),
]);
/** As a list shows it: the name that the measure gives, else the object within its namespace, and what it bears beside. */
export function lineName({ labels, name }: Pick<JudgedLine, 'labels' | 'name'>, path: ObjectPath): string {
  if (name !== null && name !== '') return name;
  const names = namesOf(path);
  const object = names.length > 2 ? names.slice(2).join(' › ') : (names.at(-1) ?? '');
  const told = path.is === 'everything' || path.is === 'cluster';
  const own = Object.entries(labels)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .flatMap(([label, value]) => (value === '' || value === object || (!told && PLACED.has(label)) ? [] : [value]));
  const all = [...(object === '' ? [] : [object]), ...own];
  return all.length === 0 ? 'all of it' : all.join(' · ');
}

/** What one point of a line says. */
export function verdictsAt(line: JudgedLine, i: number, { compare, thresholds }: MeasureCondition): LevelVerdicts {
  const there = isThere(line.marks, i) && !Number.isNaN(line.values[i]);
  if (compare === 'missing') return bothLevels(there ? { is: 'breaks' } : { is: 'holds' });
  const partial = (line.marks[i]! & PARTIAL) !== 0;
  return againstLevels(there ? line.values[i]! : null, line.thresholds ?? thresholds, {
    ...(partial ? { partial: true } : {}),
    ...(line.since === undefined ? {} : { since: line.since[i]! }),
  });
}

/** Lines, each as an object: where it stands its labels say. */
export function lineSubjects(measure: JudgedMeasure, condition: LineCondition): Subject[] {
  return measure.lines.map((line) => lineSubject(line, measure, condition));
}
function lineSubject(
  given: JudgedLine,
  { times, unit, shownAs, workloadOf }: JudgedMeasure,
  condition: LineCondition,
): Subject {
  const path: ObjectPath = pathOfLabels(given.labels, workloadOf);
  const thresholds = condition.thresholdsAt(path);
  const line: JudgedLine = { ...given, thresholds };
  const name = lineName(line, path);
  const { compare, boundWords, verb } = condition;
  const amount = (value: number | null) => valueWords(value, unit, shownAs);
  const bound = (value: number) => boundWords(value, amount);
  /** The last moment up to which something is asked. */
  const indexAt = (at: EpochMs) => {
    let i = times.length - 1;
    while (i > 0 && times[i]! > at) i--;
    return i;
  };
  const valueAt = (at: EpochMs): number | null => {
    const i = indexAt(at);
    return isThere(line.marks, i) ? line.values[i]! : null;
  };
  const words = (at: EpochMs): string => {
    const value = valueAt(at);
    const { measured } = line;
    const i = indexAt(at);
    if (measured === undefined || value === null)
      return value === null ? amount(null) : `${(line.marks[i]! & AT_LEAST) === 0 ? '' : 'at least '}${bound(value)}`;
    const [low, high] = [measured.usual.low[i]!, measured.usual.high[i]!];
    if (Number.isNaN(low) || Number.isNaN(high)) return `${amount(measured.values[i]!)}, what is usual is not known`;
    return `${amount(measured.values[i]!)}, usually ${amount(low)} to ${amount(high)}`;
  };
  return {
    key: lineKey(line),
    path,
    name,
    there: true,
    verdicts: (at) => verdictsAt(line, indexAt(at), condition),
    value: words,
    facts: (at) => {
      const value = valueAt(at);
      const past = boundPast(value, thresholds);
      const limit = past === null ? null : edgeWords(past, thresholds.side, bound);
      return {
        title: `${condition.rule}: ${name} ${compare === 'missing' ? 'has no value' : `${verb === '' ? 'is' : verb} ${words(at)}`}`,
        path: writePath(path),
        place: path.is === 'everything' ? ['everywhere'] : namesOf(path),
        value: words(at),
        limit: limit === null ? '' : `the rule tells ${limit}`,
        share: shareOf(value, past?.bound ?? null, thresholds.side),
        reason:
          compare === 'missing'
            ? 'It had a value before, and has none any more.'
            : `It has been ${limit} without a break.`,
        evidence: Object.entries(line.labels)
          .map(([label, own]) => `${label} ${own}`)
          .join(', '),
        changed: null,
        nextStep: 'Open its measure from the rule: it shows what it is made of.',
      };
    },
  };
}
/** "above 85 %", "outside of 2 to 5". */
function edgeWords(
  { bound, low }: { readonly bound: number | null; readonly low: number | null },
  side: Side,
  words: (value: number) => string,
): string {
  if (bound === null) return '';
  return side === 'outside' && low !== null ? `outside of ${words(low)} to ${words(bound)}` : `${side} ${words(bound)}`;
}
/** Of its number, for the drawn strip: nothing where less is worse. */
const shareOf = (value: number | null, bound: number | null, side: Side): number =>
  value === null || bound === null || bound <= 0 || side === 'below' ? 0 : Math.max(0, value / bound);
