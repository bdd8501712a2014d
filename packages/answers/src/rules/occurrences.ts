import { namesOf, type ObjectPath, writePath } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { bySeverity, type Thresholds } from '@zetopsis/core/rules';
import type { EpochMs } from '@zetopsis/core/units';
import type { JudgedLine } from './measureLines.ts';
import type { Subject } from './subject.ts';

/** Something that was so for a while: what a cluster said of an object, a change of it, that it was not there. */
export interface Occurrence {
  /** The same for what is the same thing again. */
  readonly key: string;
  readonly path: ObjectPath;
  readonly name: string;
  readonly severity: Severity;
  readonly from: EpochMs;
  /** When it began, where it was seen later: what objects prove. */
  readonly since?: EpochMs;
  /** Null: it is so still. */
  readonly to: EpochMs | null;
  readonly reason: string;
  readonly evidence: string;
  readonly nextStep: string;
  /** It was chosen by what the rule applies to already: the object itself may not be there. */
  readonly chosen: boolean;
}

const isSo = ({ from, to }: Occurrence, at: EpochMs): boolean => at >= from && (to === null || at < to);
/** What is the same thing is one object; the newest tells how it stands. */
function byKey(occurrences: Iterable<Occurrence>): Map<string, Occurrence[]> {
  const found = new Map<string, Occurrence[]>();
  for (const one of occurrences) {
    const own = found.get(one.key);
    if (own) own.push(one);
    else found.set(one.key, [one]);
  }
  for (const own of found.values()) own.sort((a, b) => a.from - b.from);
  return found;
}
export function* occurrenceSubjects(occurrences: Iterable<Occurrence>): Generator<Subject> {
  for (const [key, own] of byKey(occurrences)) yield occurrenceSubject(key, own);
}
function occurrenceSubject(key: string, own: readonly Occurrence[]): Subject {
  const newest = own.at(-1)!; // there is one, or it would have no key
  const at = (moment: EpochMs) => own.findLast((one) => isSo(one, moment)) ?? null;
  return {
    key,
    path: newest.path,
    name: newest.name,
    there: true,
    ...(newest.chosen ? { chosen: true } : {}),
    verdicts: (moment) => {
      const one = at(moment);
      return bySeverity(one?.severity ?? null, one?.from ?? null);
    },
    value: (moment) => (at(moment) ?? newest).reason,
    facts: (moment) => {
      const { path, name, reason, evidence, nextStep } = at(moment) ?? newest;
      return {
        title: `${name}: ${reason}`.slice(0, 160),
        path: writePath(path),
        place: path.is === 'everything' ? ['everywhere'] : namesOf(path),
        value: '',
        limit: '',
        share: 0,
        reason,
        evidence,
        changed: null,
        nextStep,
      };
    },
  };
}

/** The numbers that stand for how grave it is, where it is looked back over as lines. */
export const SEVERITY_THRESHOLDS: Pick<Thresholds, 'side'> & { readonly bounds: Readonly<Record<Severity, number>> } = {
  side: 'above',
  bounds: { warning: 0.5, critical: 1.5 },
};
/**
 * Each thing as a line: 0, 1 where it is a warning, 2 where it is critical. Of more than `most` things those that it happened to
 * last.
 */
export function occurrenceLines(
  occurrences: Iterable<Occurrence>,
  moments: ArrayLike<EpochMs>,
  most: number,
): {
  readonly lines: { readonly line: JudgedLine; readonly path: ObjectPath; readonly name: string }[];
  readonly left: number;
} {
  const all = [...byKey(occurrences).values()];
  if (all.length > most) all.sort((a, b) => b.at(-1)!.from - a.at(-1)!.from);
  const lines = all.slice(0, most).map((own) => {
    const values = new Float64Array(moments.length);
    const sinces = Float64Array.from(moments);
    for (const { from, to, severity, since = from } of own) {
      const weight = severity === 'critical' ? 2 : 1;
      for (let i = firstNotBefore(moments, from); i < moments.length && (to === null || moments[i]! < to); i++) {
        values[i] = Math.max(values[i]!, weight);
        sinces[i] = Math.min(sinces[i]!, since);
      }
    }
    const { path, name } = own.at(-1)!; // not empty
    return {
      line: { labels: {}, name, values, marks: new Uint8Array(moments.length), since: sinces },
      path,
      name,
    };
  });
  return { lines, left: all.length - lines.length };
}
/** Place of the first moment that is not before a time, of moments that ascend. */
export function firstNotBefore(moments: ArrayLike<EpochMs>, time: EpochMs): number {
  let [low, high] = [0, moments.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (moments[middle]! < time) low = middle + 1;
    else high = middle;
  }
  return low;
}
