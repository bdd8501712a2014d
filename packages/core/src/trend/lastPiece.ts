import { percentile } from '../statistics/index.ts';

const SHORTEST = 8;
/** Two lines have to leave so much less beside them than one. */
const BETTER = 0.45;
const MOST_PIECES = 12;

/**
 * Where the newest piece of a history begins, from which on one straight line tells of it: after a jump, a restart, or a
 * bend what was before says nothing of what comes. 0 when the whole is one piece.
 */
export function lastPiece(values: Float64Array): number {
  let from = lastJump(values);
  for (let piece = 0; piece < MOST_PIECES; piece++) {
    const cut = bestCut(values.subarray(from));
    if (cut === 0) return from;
    from += cut;
  }
  return from;
}

/** A step between neighbours that is so many times the usual one, and so much of all there is between least and most. */
const FAR = 10;
const MUCH = 0.15;

/** The place behind the newest jump, such as a restart: of many teeth no single cut makes one line of all. 0: there is none. */
function lastJump(values: Float64Array): number {
  const steps: number[] = [];
  let before = Number.NaN;
  let least = Number.POSITIVE_INFINITY;
  let most = Number.NEGATIVE_INFINITY;
  for (const value of values) {
    if (Number.isNaN(value)) continue;
    if (!Number.isNaN(before)) steps.push(Math.abs(value - before));
    least = Math.min(least, value);
    most = Math.max(most, value);
    before = value;
  }
  const far = Math.max(FAR * (percentile(steps, 0.5) ?? 0), MUCH * (most - least));
  let place = 0;
  let left = values.length;
  before = Number.NaN;
  values.forEach((value, i) => {
    left--;
    if (Number.isNaN(value)) return;
    // behind the newest ones too little is known to go by
    if (!Number.isNaN(before) && Math.abs(value - before) > far && left >= SHORTEST) place = i;
    before = value;
  });
  return place;
}

/** Sums before each point, so that a line through any stretch is fitted at once. */
class Sums {
  private readonly n: Float64Array;
  private readonly x: Float64Array;
  private readonly y: Float64Array;
  private readonly xx: Float64Array;
  private readonly xy: Float64Array;
  private readonly yy: Float64Array;
  constructor(values: Float64Array) {
    const make = () => new Float64Array(values.length + 1);
    [this.n, this.x, this.y, this.xx, this.xy, this.yy] = [make(), make(), make(), make(), make(), make()];
    let first = Number.NaN;
    values.forEach((value, i) => {
      const there = !Number.isNaN(value);
      if (there && Number.isNaN(first)) first = value;
      // from the first value on: sums of squares of large numbers would lose their ends
      const own = there ? value - first : 0;
      const add = (sums: Float64Array, one: number) => {
        sums[i + 1] = sums[i]! + (there ? one : 0);
      };
      add(this.n, 1);
      add(this.x, i);
      add(this.y, own);
      add(this.xx, i * i);
      add(this.xy, i * own);
      add(this.yy, own * own);
    });
  }
  /** Squares beside the line of least squares through [from, to), and how many points there are. */
  beside(from: number, to: number): { squares: number; points: number } {
    const of = (sums: Float64Array) => sums[to]! - sums[from]!;
    const points = of(this.n);
    if (points < 2) return { squares: 0, points };
    const width = of(this.xx) - of(this.x) ** 2 / points;
    const height = of(this.yy) - of(this.y) ** 2 / points;
    const both = of(this.xy) - (of(this.x) * of(this.y)) / points;
    return { squares: Math.max(0, height - (width === 0 ? 0 : both ** 2 / width)), points };
  }
}

function bestCut(values: Float64Array): number {
  const sums = new Sums(values);
  const whole = sums.beside(0, values.length);
  if (whole.points < 2 * SHORTEST) return 0;
  let best = 0;
  let least = whole.squares * BETTER;
  for (let cut = 1; cut < values.length; cut++) {
    const before = sums.beside(0, cut);
    const after = sums.beside(cut, values.length);
    if (before.points < SHORTEST || after.points < SHORTEST) continue;
    if (before.squares + after.squares < least) {
      least = before.squares + after.squares;
      best = cut;
    }
  }
  return best;
}
