import { WrongMeasure } from '../problem.ts';
import type { Operator } from '../tree.ts';
import { emptyLine, isThere, KEPT_MARKS, type Labels, type Line, labelsKey, MISSED, NONE } from './lines.ts';

export interface Side {
  readonly lines: readonly Line[];
  /** A number: it has a value at every moment. */
  readonly number: number | null;
  /** Where the other side has a value and this one has none, 0 stands in. */
  readonly missingIsZero: boolean;
}
type Compute = (left: number, right: number) => number | null;
export const OPERATE: Readonly<Record<Operator, Compute>> = {
  '+': (left, right) => left + right,
  '-': (left, right) => left - right,
  '*': (left, right) => left * right,
  '/': (left, right) => (right === 0 ? null : left / right),
};

const onLabels = (labels: Labels, pairedBy: readonly string[] | null): string =>
  pairedBy === null ? labelsKey(labels) : JSON.stringify(pairedBy.map((label) => labels[label] ?? ''));
const words = (labels: Labels): string =>
  Object.keys(labels).length === 0
    ? 'one without labels'
    : Object.entries(labels)
        .map(([label, value]) => `${label} “${value}”`)
        .join(', ');

/** Two sides as one: lines pair by equal labels, or by those that are named; many to one where one side has fewer. */
export function paired(
  left: Side,
  right: Side,
  compute: Compute,
  pairedBy: readonly string[] | null,
  count: number,
): Line[] {
  if (left.number !== null && right.number !== null) {
    const value = compute(left.number, right.number);
    const line = emptyLine({}, count);
    if (value !== null) for (let i = 0; i < count; i++) [line.values[i], line.marks[i]] = [value, 0];
    return [line];
  }
  if (left.number !== null) return right.lines.map((line) => withNumber(line, (value) => compute(left.number!, value)));
  if (right.number !== null)
    return left.lines.map((line) => withNumber(line, (value) => compute(value, right.number!)));
  if (pairedBy === null && isOne(right) && !isOne(left)) return each(left, right, compute, true, count);
  if (pairedBy === null && isOne(left) && !isOne(right)) return each(right, left, compute, false, count);
  return byLabels(left, right, compute, pairedBy, count);
}
const isOne = ({ lines }: Side): boolean => lines.length === 1 && Object.keys(lines[0]!.labels).length === 0;
function withNumber(line: Line, compute: (value: number) => number | null): Line {
  const out = emptyLine(line.labels, line.values.length, line.name);
  for (let i = 0; i < out.values.length; i++) {
    const value = isThere(line.marks, i) ? compute(line.values[i]!) : null;
    out.marks[i] = value === null ? NONE | (line.marks[i]! & MISSED) : line.marks[i]!;
    if (value !== null) out.values[i] = value;
  }
  return out;
}
/** Every line of one side with the one line of the other. */
function each(many: Side, one: Side, compute: Compute, manyIsLeft: boolean, count: number): Line[] {
  return many.lines.map((line) => {
    const out = emptyLine(line.labels, count, line.name);
    const [own, other] = [
      { line, zero: many.missingIsZero },
      { line: one.lines[0], zero: one.missingIsZero },
    ];
    for (let i = 0; i < count; i++) fill(out, i, manyIsLeft ? own : other, manyIsLeft ? other : own, compute);
    return out;
  });
}
interface Cell {
  readonly line: Line | undefined;
  readonly zero: boolean;
}
/** Mark and value of one moment of which both sides tell; 0 where one of them counts as that. */
function fill(out: Line, i: number, left: Cell, right: Cell, compute: Compute): void {
  const has = ({ line }: Cell): boolean => line !== undefined && isThere(line.marks, i);
  const [hasLeft, hasRight] = [has(left), has(right)];
  if (!(hasLeft || (left.zero && hasRight)) || !(hasRight || (right.zero && hasLeft))) {
    out.marks[i] = NONE | (((left.line?.marks[i] ?? 0) | (right.line?.marks[i] ?? 0)) & MISSED);
    return;
  }
  const value = compute(hasLeft ? left.line!.values[i]! : 0, hasRight ? right.line!.values[i]! : 0);
  if (value === null) return;
  out.values[i] = value;
  out.marks[i] = ((hasLeft ? left.line!.marks[i]! : 0) | (hasRight ? right.line!.marks[i]! : 0)) & KEPT_MARKS;
}

function byLabels(
  left: Side,
  right: Side,
  compute: Compute,
  pairedBy: readonly string[] | null,
  count: number,
): Line[] {
  const keyed = ({ lines }: Side) => {
    const all = new Map<string, Line[]>();
    for (const line of lines) {
      const key = onLabels(line.labels, pairedBy);
      const own = all.get(key);
      if (own) own.push(line);
      else all.set(key, [line]);
    }
    return all;
  };
  const [ofLeft, ofRight] = [keyed(left), keyed(right)];
  const labelsIn = ({ lines }: Side) => Math.max(0, ...lines.map(({ labels }) => Object.keys(labels).length));
  const bearsLeft = labelsIn(left) >= labelsIn(right);
  const out: Line[] = [];
  for (const key of new Set([...ofLeft.keys(), ...ofRight.keys()])) {
    const [a, b] = [ofLeft.get(key) ?? [], ofRight.get(key) ?? []];
    out.push(...pairedGroup({ a, b, left, right, compute, bearsLeft, manyMayStand: pairedBy !== null, count }));
  }
  return out;
}
/** Lines that have the same labels to pair by. Which of them pair is judged at each moment. */
function pairedGroup({
  a,
  b,
  left,
  right,
  compute,
  bearsLeft,
  manyMayStand,
  count,
}: {
  readonly a: readonly Line[];
  readonly b: readonly Line[];
  readonly left: Side;
  readonly right: Side;
  readonly compute: Compute;
  readonly bearsLeft: boolean;
  readonly manyMayStand: boolean;
  readonly count: number;
}): Line[] {
  const [many, one] = bearsLeft ? [a, b] : [b, a];
  const none: readonly (Line | undefined)[] = [undefined];
  const outer = many.length > 0 ? many : none;
  return outer.flatMap((line) => {
    const labels = line?.labels ?? one[0]!.labels; // one side has some
    const result = emptyLine(labels, count, line?.name ?? null);
    const pick = oneOf(one, many, manyMayStand);
    for (let i = 0; i < count; i++) {
      const other = pick(i);
      const [l, r] = bearsLeft ? [line, other] : [other, line];
      fill(result, i, { line: l, zero: left.missingIsZero }, { line: r, zero: right.missingIsZero }, compute);
    }
    return [result];
  });
}
/** The line of the side with fewer labels that has a value at a moment; two of them cannot pair. */
function oneOf(one: readonly Line[], many: readonly Line[], manyMayStand: boolean): (i: number) => Line | undefined {
  return (i) => {
    const there = one.filter(({ marks }) => isThere(marks, i));
    if (there.length > 1)
      throw new WrongMeasure(
        `which lines pair is not clear: ${words(there[0]!.labels)} and ${words(there[1]!.labels)} both pair with the same. Put them together (“total for each …”), or pair by more labels`,
      );
    if (!manyMayStand && many.filter(({ marks }) => isThere(marks, i)).length > 1 && there.length === 1)
      throw new WrongMeasure(
        `which lines pair is not clear: two lines have the labels ${words(many[0]!.labels)}. Put them together (“total for each …”) first`,
      );
    return there[0];
  };
}
