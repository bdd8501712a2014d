import { EVERYTHING, namesOf, type ObjectPath, readWorkloadKey, writePath } from '@zetopsis/contract';
import type { WorkloadName } from '@zetopsis/core/inventory';
import { isThere, type Labels, PARTIAL, valueWords } from '@zetopsis/core/measures';
import { againstLevels, bothLevels, type Compare, type LevelVerdicts, type Thresholds } from '@zetopsis/core/rules';
import { OBJECT_LABELS } from '@zetopsis/core/scouting';
import type { EpochMs } from '@zetopsis/core/units';
import type { Subject } from './subject.ts';

/** A line of a measure as it is judged: values and marks at the moments. */
export interface JudgedLine {
  readonly labels: Labels;
  readonly name: string | null;
  readonly values: ArrayLike<number>;
  readonly marks: Uint8Array;
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
  return againstLevels(there ? line.values[i]! : null, thresholds, partial ? { partial: true } : {});
}

/** Lines, each as an object: where it stands its labels say. */
export function lineSubjects(measure: JudgedMeasure, condition: MeasureCondition): Subject[] {
  return measure.lines.map((line) => lineSubject(line, measure, condition));
}
function lineSubject(
  line: JudgedLine,
  { times, unit, shownAs, workloadOf }: JudgedMeasure,
  condition: MeasureCondition,
): Subject {
  const path: ObjectPath = pathOfLabels(line.labels, workloadOf);
  const name = lineName(line, path);
  const words = (value: number | null) => valueWords(value, unit, shownAs);
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
  const { compare, thresholds } = condition;
  const bounds = [thresholds.levels.warning?.bound, thresholds.levels.critical?.bound].filter((own) => own != null);
  const boundOf = (value: number | null) =>
    bounds.findLast((bound) => value !== null && (thresholds.side === 'above' ? value > bound : value < bound)) ??
    bounds[0] ??
    null;
  return {
    key: lineKey(line),
    path,
    name,
    there: true,
    verdicts: (at) => verdictsAt(line, indexAt(at), condition),
    value: (at) => words(valueAt(at)),
    facts: (at) => {
      const value = valueAt(at);
      const bound = boundOf(value);
      return {
        title: `${condition.rule}: ${name} ${compare === 'missing' ? 'has no value' : `is ${words(value)}`}`,
        path: writePath(path),
        place: path.is === 'everything' ? ['everywhere'] : namesOf(path),
        value: words(value),
        limit: bound === null ? '' : `the rule tells ${thresholds.side} ${words(bound)}`,
        share: value === null || bound === null || bound <= 0 ? 0 : value / bound,
        reason:
          compare === 'missing'
            ? 'It had a value before, and has none any more.'
            : `It has been ${thresholds.side} ${words(bound)} without a break.`,
        evidence: Object.entries(line.labels)
          .map(([label, own]) => `${label} ${own}`)
          .join(', '),
        changed: null,
        nextStep: 'Open its measure from the rule: it shows what it is made of.',
      };
    },
  };
}
