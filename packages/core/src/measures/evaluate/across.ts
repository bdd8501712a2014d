import type { Across, AcrossKind } from '../tree.ts';
import { combined } from './buckets.ts';
import { emptyLine, isThere, KEPT_MARKS, type Labels, type Line, labelsKey, MISSED, NONE, PARTIAL } from './lines.ts';
import { figure, percentileOf } from './overTime.ts';

interface Group {
  readonly labels: Labels;
  readonly lines: readonly Line[];
}
/** Lines that are alike in some labels; those without a label are alike in that. */
function groupsOf(lines: readonly Line[], across: Across): Group[] {
  const groups = new Map<string, { labels: Labels; lines: Line[] }>();
  for (const line of lines) {
    const labels: Record<string, string> = {};
    if ('each' in across)
      for (const label of across.each) if ((line.labels[label] ?? '') !== '') labels[label] = line.labels[label]!;
    const key = labelsKey(labels);
    const group = groups.get(key) ?? { labels, lines: [] };
    group.lines.push(line);
    groups.set(key, group);
  }
  return [...groups.values()];
}
/** One line a group: what is told of the values there are at each moment. */
function gathered(
  lines: readonly Line[],
  across: Across,
  tell: (values: readonly number[]) => number,
  partial: boolean,
): Line[] {
  return groupsOf(lines, across).map(({ labels, lines: own }) => {
    const out = emptyLine(labels, own[0]!.values.length); // a group has one at least
    const values: number[] = [];
    for (let i = 0; i < out.values.length; i++) {
      values.length = 0;
      let marks = 0;
      let missed = false;
      for (const line of own) {
        if (isThere(line.marks, i)) {
          values.push(line.values[i]!);
          marks |= line.marks[i]! & KEPT_MARKS;
        } else if ((line.marks[i]! & MISSED) !== 0) missed = true;
      }
      if (values.length === 0) {
        out.marks[i] = NONE | (missed ? MISSED : 0);
        continue;
      }
      out.values[i] = tell(values);
      out.marks[i] = marks | (missed && partial ? PARTIAL : 0);
    }
    return out;
  });
}
export const across = (lines: readonly Line[], what: AcrossKind, own: Across): Line[] =>
  gathered(lines, own, (values) => figure(what, values), what === 'total');
export const percentileAcross = (lines: readonly Line[], percentile: number, own: Across): Line[] =>
  gathered(lines, own, (values) => percentileOf(values, percentile), false);

/** Histograms in sum, at the bounds that all of a group have. */
export function totalOfBuckets(lines: readonly Line[], own: Across): Line[] {
  return groupsOf(lines, own).map(({ labels, lines: parts }) => {
    const out = emptyLine(labels, parts[0]!.values.length); // a group has one at least
    for (let i = 0; i < out.marks.length; i++) {
      let there = false;
      let marks = 0;
      for (const part of parts) {
        if (isThere(part.marks, i)) {
          there = true;
          marks |= part.marks[i]! & KEPT_MARKS;
        } else if ((part.marks[i]! & MISSED) !== 0) marks |= PARTIAL;
      }
      out.marks[i] = there ? marks : NONE;
    }
    const buckets = combined(parts, out.marks);
    return buckets === null ? out : { ...out, buckets };
  });
}

/** The largest, by the mean over the whole window so that lines do not flicker; of one moment by its value. Ties by labels, NaN last. */
export function ranked(lines: readonly Line[], count: number, largest: boolean): Line[] {
  const meanOf = ({ values, marks }: Line): number => {
    let sum = 0;
    let known = 0;
    for (let i = 0; i < values.length; i++)
      if (isThere(marks, i)) {
        sum += values[i]!;
        known++;
      }
    return known === 0 ? Number.NaN : sum / known;
  };
  return lines
    .map((line) => ({ line, mean: meanOf(line), key: labelsKey(line.labels) }))
    .sort((a, b) => {
      const [left, right] = [Number.isNaN(a.mean), Number.isNaN(b.mean)];
      if (left !== right) return left ? 1 : -1;
      const order = left ? 0 : largest ? b.mean - a.mean : a.mean - b.mean;
      return order || (a.key < b.key ? -1 : a.key > b.key ? 1 : 0);
    })
    .slice(0, count)
    .map(({ line }) => line);
}
