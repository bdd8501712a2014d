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
/** Letters put in, left out or changed to make one of the other; more than `most` is not counted further, nor looked for. */
function distance(a: string, b: string, most: number): number {
  if (Math.abs(a.length - b.length) > most) return most + 1;
  // only what lies within `most` of the diagonal can come to so little
  let row = new Uint16Array(b.length + 1).fill(most + 1);
  for (let j = 0; j <= Math.min(most, b.length); j++) row[j] = j;
  for (let i = 1; i <= a.length; i++) {
    const next = new Uint16Array(b.length + 1).fill(most + 1);
    let least = most + 1;
    if (i <= most) least = next[0] = i;
    for (let j = Math.max(1, i - most); j <= Math.min(b.length, i + most); j++) {
      const value = Math.min(row[j]! + 1, next[j - 1]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1), most + 1);
      next[j] = value;
      if (value < least) least = value;
    }
    if (least > most) return most + 1;
    row = next;
  }
  return row[b.length]!;
}
const farthestOf = (name: string): number => Math.min(FARTHEST, Math.ceil(name.length / 3));
const LONGEST_NAME = 200;
/** Whether a name may be the nearest to another at all; cheap enough for very many. */
export const isNear = (name: string, to: string): boolean =>
  name.length <= LONGEST_NAME &&
  to.length <= LONGEST_NAME &&
  distance(to.toLowerCase(), name.toLowerCase(), farthestOf(to)) <= farthestOf(to);
/** The name of a list that is nearest to one that is not in it; null when none is near. */
export function nearestOf(name: string, names: Iterable<string>): string | null {
  const wanted = name.toLowerCase();
  let best: string | null = null;
  let least = farthestOf(name) + 1;
  for (const one of names) {
    if (one.length > LONGEST_NAME || name.length > LONGEST_NAME) continue;
    const far = distance(wanted, one.toLowerCase(), least - 1);
    if (far < least) {
      least = far;
      best = one;
    }
  }
  return best;
}
