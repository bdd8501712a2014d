const SHORTEST = 8;
/** Two lines have to leave so much less beside them than one. */
const BETTER = 0.45;
const MOST_PIECES = 12;

/**
 * Where the newest piece of a history begins, from which on one straight line tells of it: after a jump, a restart, or a
 * bend what was before says nothing of what comes. 0 when the whole is one piece.
 */
export function lastPiece(values: Float64Array): number {
  let from = 0;
  for (let piece = 0; piece < MOST_PIECES; piece++) {
    const cut = bestCut(values.subarray(from));
    if (cut === 0) return from;
    from += cut;
  }
  return from;
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
