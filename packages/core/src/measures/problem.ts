/** Where something in a text stands; both count from 1, columns in UTF-16 units. */
export interface Place {
  readonly line: number;
  readonly column: number;
}
/** What is wrong with a measure, in words that end with what was expected or what to do. */
export interface MeasureProblem {
  readonly text: string;
  /** Null: of a body that came as a tree. */
  readonly at: Place | null;
  /** The nearest name that would be right. */
  readonly nearest: string | null;
}

/** Thrown inside of reading and checking, and answered as a problem. */
export class WrongMeasure extends Error {
  constructor(
    readonly text: string,
    readonly offset: number | null = null,
    readonly nearest: string | null = null,
  ) {
    super(text);
  }
}

export function placeAt(text: string, offset: number): Place {
  let line = 1;
  let begun = 0;
  for (let i = text.indexOf('\n'); i >= 0 && i < offset; i = text.indexOf('\n', i + 1)) {
    line++;
    begun = i + 1;
  }
  return { line, column: offset - begun + 1 };
}

const FARTHEST = 3;
/** Letters put in, left out or changed to make one of the other; more than `most` is not counted further. */
function distance(a: string, b: string, most: number): number {
  if (Math.abs(a.length - b.length) > most) return most + 1;
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++)
      next[j] = Math.min(row[j]! + 1, next[j - 1]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1));
    row = next;
    if (Math.min(...row) > most) return most + 1;
  }
  return row[b.length]!;
}
/** The name of a list that is nearest to one that is not in it; null when none is near. */
export function nearestOf(name: string, names: Iterable<string>): string | null {
  const wanted = name.toLowerCase();
  let best: string | null = null;
  let least = Math.min(FARTHEST, Math.ceil(name.length / 3)) + 1;
  for (const one of names) {
    const far = distance(wanted, one.toLowerCase(), least - 1);
    if (far < least) {
      least = far;
      best = one;
    }
  }
  return best;
}
