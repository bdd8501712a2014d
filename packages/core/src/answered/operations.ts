import { type BucketCounts, percentileOfBuckets, shareBelow } from '../statistics/index.ts';
import { mostAsked } from './spread.ts';

/** What one series told of the requests of one operation at one pod, over a window. */
export interface OperationTold {
  readonly operation: string;
  readonly pod: string;
  /** Of the pod: what runs in it. */
  readonly version: string;
  readonly cold: boolean;
  readonly browser: boolean;
  /** Requests: whether these failed. Of a bucket null. */
  readonly failed: boolean | null;
  /** Of a bucket: its upper bound, s. Of requests null. */
  readonly bound: number | null;
  /** How many there were in the window. */
  readonly grown: number;
}
/** Requests of one thing in a window. */
export interface RequestFigures {
  readonly requests: number;
  /** Null where there were none. */
  readonly failedShare: number | null;
  /** Seconds that half and 95 of 100 stayed below; null where nothing tells. */
  readonly half: number | null;
  readonly nearlyAll: number | null;
  /** Within the target, and half of those within four times it. */
  readonly satisfaction: number | null;
}
export interface OperationFigures extends RequestFigures {
  readonly operation: string;
  /** Of the requests, those that were the first that their program answered, and those that browsers sent. */
  readonly cold: number;
  readonly browsers: number;
}
export interface OperationsTold {
  readonly all: RequestFigures;
  /** The most frequent first. */
  readonly operations: readonly OperationFigures[];
  readonly pods: readonly (RequestFigures & { readonly pod: string })[];
  readonly versions: readonly (RequestFigures & { readonly version: string; readonly pods: number })[];
  /** Set where one pod gets far more than its part of what is asked: its name, and how many times its part. */
  readonly uneven: { readonly pod: string; readonly times: number } | null;
}
const TOLERATED = 4;

/** From what its pods told: each operation, each pod, each version. `target`: s. */
export function operationsOf(told: readonly OperationTold[], target: number): OperationsTold {
  const figures = (some: readonly OperationTold[]) => figuresOf(some, target);
  const pods = [...groups(told, ({ pod }) => pod)].map(([pod, own]) => ({ pod, ...figures(own) }));
  const versions = [...groups(told, ({ version }) => version)].map(([version, own]) => ({
    version,
    pods: new Set(own.filter(({ grown }) => grown > 0).map(({ pod }) => pod)).size,
    ...figures(own),
  }));
  const operations = [...groups(told, ({ operation }) => operation)].map(([operation, own]) => ({
    operation,
    ...figures(own),
    cold: counted(own.filter(({ cold }) => cold)),
    browsers: counted(own.filter(({ browser }) => browser)),
  }));
  const frequent = <T extends RequestFigures>(list: T[]) =>
    list.filter(({ requests }) => requests > 0).sort((a, b) => b.requests - a.requests);
  const all = figures(told);
  return {
    all,
    operations: frequent(operations),
    pods: frequent(pods),
    versions: frequent(versions),
    uneven: mostAsked(pods),
  };
}
const counted = (some: readonly OperationTold[]): number =>
  some.reduce((sum, { failed, grown }) => (failed === null ? sum : sum + grown), 0);
function figuresOf(some: readonly OperationTold[], target: number): RequestFigures {
  const requests = counted(some);
  const buckets = new Map<number, number>();
  for (const { bound, grown } of some) if (bound !== null) buckets.set(bound, (buckets.get(bound) ?? 0) + grown);
  const bounds = [...buckets.keys()].sort((a, b) => a - b);
  const own: BucketCounts = { bounds, counts: (bound) => buckets.get(bounds[bound]!)!, exponential: false }; // its own keys
  const satisfied = [shareBelow(own, target), shareBelow(own, TOLERATED * target)];
  return {
    requests,
    failedShare: requests > 0 ? counted(some.filter(({ failed }) => failed === true)) / requests : null,
    half: percentileOfBuckets(own, 50)?.value ?? null,
    nearlyAll: percentileOfBuckets(own, 95)?.value ?? null,
    satisfaction: satisfied.every((share) => share !== null)
      ? satisfied.reduce((sum, { value }) => sum + value / 2, 0)
      : null,
  };
}
function groups<K>(told: readonly OperationTold[], keyOf: (one: OperationTold) => K): Map<K, OperationTold[]> {
  const all = new Map<K, OperationTold[]>();
  for (const one of told) {
    const own = all.get(keyOf(one)) ?? [];
    own.push(one);
    all.set(keyOf(one), own);
  }
  return all;
}
