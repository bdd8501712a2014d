import type { BesideColumns } from '../../samples/index.ts';
import type { DurationMs, EpochMs } from '../../units/index.ts';

export type Labels = Readonly<Record<string, string>>;

/** What a point is besides its value; passes on to everything that is computed from it. */
export const PARTIAL = 1;
/** The true value is that or larger. */
export const AT_LEAST = 2;
export const FILLED = 4;
/** There is no value; a value may be NaN. */
export const NONE = 64;
/** There is none though what it is of still is there: it was not read. */
export const MISSED = 128;
/** Marks that stay with what is computed. */
export const KEPT_MARKS = PARTIAL | AT_LEAST | FILLED;

/** Samples of one series, oldest first; an end marker among them says that it ended there. */
export interface SeriesIn {
  readonly labels: Labels;
  /** How far apart its samples are expected. */
  readonly interval: DurationMs;
  readonly times: ArrayLike<EpochMs>;
  readonly values: ArrayLike<number>;
  /** Of samples that were computed; none: those of a page. */
  readonly marks?: Uint8Array;
  /** Each sample is the last of a bucket of many. */
  readonly rolled?: Rolled;
  /** Since when it counts, as its page says: `at` holds for samples from `from` on. */
  readonly created?: readonly { readonly from: EpochMs; readonly at: EpochMs }[];
  /** When the container that serves its page began, each time. */
  readonly starts?: readonly EpochMs[];
  /** Complete readings of its page that lacked it: the last one before it came, each time. */
  readonly lacked?: readonly EpochMs[];
}
/** What is kept of buckets, one value a sample; only what was asked for. */
export interface Rolled {
  readonly bucket: DurationMs;
  /** How far apart the samples themselves were expected. */
  readonly interval: DurationMs;
  readonly beside: BesideColumns;
}
/** Counts of observations up to each bound, all of the same moments. */
export interface HistogramIn {
  readonly labels: Labels;
  readonly interval: DurationMs;
  /** Ascending; the last may be Infinity. */
  readonly bounds: readonly number[];
  /** One a bound. */
  readonly parts: readonly SeriesIn[];
  /** Between two bounds of an exponential histogram the answer is logarithmic. */
  readonly exponential: boolean;
}

/** One line at the moments that were asked for. */
export interface Line {
  readonly labels: Labels;
  /** As `called` says; null: its labels tell it. */
  readonly name: string | null;
  readonly values: Float64Array;
  readonly marks: Uint8Array;
  readonly buckets?: Buckets;
  /** In eight of ten cases it lies between these. */
  readonly band?: { readonly low: Float64Array; readonly high: Float64Array };
}
export interface Buckets {
  readonly bounds: readonly number[];
  /** Observations up to each bound: one list a bound, one entry a moment. */
  readonly counts: readonly Float64Array[];
  readonly exponential: boolean;
}

/** No value anywhere, until some are set. */
export function emptyLine(labels: Labels, count: number, name: string | null = null): Line {
  return { labels, name, values: new Float64Array(count).fill(Number.NaN), marks: new Uint8Array(count).fill(NONE) };
}
export const isThere = (marks: Uint8Array, i: number): boolean => (marks[i]! & NONE) === 0;
/** One text for labels, to compare and to sort by; a label that is missing is the empty text. */
export const labelsKey = (labels: Labels): string =>
  JSON.stringify(
    Object.entries(labels)
      .filter(([, value]) => value !== '')
      .sort(([a], [b]) => (a < b ? -1 : 1)),
  );
/** Last place of a sorted list whose entry is at most so much; -1: none. */
export function lastAtMost(times: ArrayLike<number>, at: number): number {
  let low = 0;
  let high = times.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (times[middle]! <= at) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}
