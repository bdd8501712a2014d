import { medianSlope, percentile } from '../statistics/index.ts';

/** A straight line through what was read, one step a point, and what is not known of it. */
export interface Line {
  /** At the first point. */
  readonly level: number;
  readonly slope: number;
  /** Standard errors. */
  readonly slopeError: number;
  readonly levelError: number;
  /** Standard deviation of what lies beside the line. */
  readonly noise: number;
  /** How much of it is still there one point later, 0 … 1. */
  readonly memory: number;
  /** What lies beside it at the last point. */
  readonly last: number;
}
/** Pairs are taken of at most so many points: their number grows with the square. */
const PAIRED = 112;
/** Of a normal distribution: standard deviation over the median of what lies beside. */
const MAD = 1.4826;

/** By the median of slopes; errors with the noise's memory taken into account. Null with too few points. */
export function fitLine(values: Float64Array): Line | null {
  const points: [at: number, value: number][] = [];
  values.forEach((value, i) => {
    if (!Number.isNaN(value)) points.push([i, value]);
  });
  const slope = medianSlope(values, PAIRED);
  if (slope === null) return null;
  const level = percentile(
    points.map(([at, value]) => value - slope * at),
    0.5,
  )!;
  const beside = points.map(([at, value]) => value - level - slope * at);
  const spread =
    percentile(
      beside.map((one) => Math.abs(one)),
      0.5,
    )! * MAD;
  const deviation = Math.sqrt(beside.reduce((sum, one) => sum + one * one, 0) / Math.max(1, beside.length - 2));
  // many alike and a few far off: the median would call that no noise at all
  const noise = Math.max(spread, deviation * 0.8);
  const memory = memoryOf(beside);
  const middle = points.reduce((sum, [at]) => sum + at, 0) / points.length;
  const width = points.reduce((sum, [at]) => sum + (at - middle) ** 2, 0);
  // with a memory there are fewer independent points
  const fewer = Math.sqrt((1 + memory) / (1 - memory));
  return {
    level,
    slope,
    slopeError: (noise / Math.sqrt(width)) * fewer * 1.35,
    levelError: (noise / Math.sqrt(points.length)) * fewer,
    noise,
    memory,
    last: beside.at(-1)!, // there are some
  };
}

/** Correlation of neighbours, corrected for short lists (Marriott and Pope 1954). */
function memoryOf(beside: readonly number[]): number {
  let own = 0;
  let next = 0;
  for (let i = 0; i < beside.length; i++) {
    own += beside[i]! ** 2;
    if (i > 0) next += beside[i]! * beside[i - 1]!;
  }
  if (own === 0) return 0;
  const plain = next / own;
  return Math.min(0.95, Math.max(0, plain + (1 + 3 * plain) / beside.length));
}
