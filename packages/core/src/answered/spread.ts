import type { DurationMs, EpochMs } from '../units/index.ts';

/** What one pod answered in each slot of a stretch of time. */
export interface PodAnswered {
  readonly pod: string;
  /** Requests by slot, the oldest first; NaN where it told nothing. */
  readonly requests: Float64Array;
}
/** One pod gets far more than its part. */
export interface Spread {
  readonly pod: string;
  /** Of its part. */
  readonly times: number;
  readonly pods: number;
  /** The beginning of the first slot of that stretch; null: for as long as was looked at. */
  readonly since: EpochMs | null;
}

/** So many requests tell how they are spread. */
const ENOUGH = 200;
/** Times what the others get on average. */
const UNEVEN = 2.5;
/** Chance alone does not bring it so far above its part: times the square root of that. */
const BY_CHANCE = 5;
/** So many slots in a row, one pod. */
const IN_A_ROW = 2;

/** The pod that gets two and a half times as much as the others on average, or more, of pods that could all answer; null where it is even enough, or too little was asked. */
export function mostAsked<P extends { readonly pod: string; readonly requests: number }>(
  pods: readonly P[],
): { readonly pod: string; readonly times: number } | null {
  const all = pods.reduce((sum, { requests }) => sum + requests, 0);
  const [first, ...rest] = pods;
  if (!first || rest.length === 0 || all < ENOUGH) return null;
  const most = rest.reduce((a, b) => (b.requests > a.requests ? b : a), first);
  const part = all / pods.length;
  const others = (all - most.requests) / (pods.length - 1);
  return most.requests >= UNEVEN * others && most.requests - part > BY_CHANCE * Math.sqrt(part)
    ? { pod: most.pod, times: most.requests / part }
    : null;
}

/**
 * Whether what is asked of pods is spread unevenly, in the newest slots, by the same pod. In each slot those count that told
 * something in it. `start`: of the first slot; `length`: of each.
 */
export function spreadOf(
  pods: readonly PodAnswered[],
  { start, length }: { readonly start: EpochMs; readonly length: DurationMs },
): Spread | null {
  const slots = Math.max(0, ...pods.map(({ requests }) => requests.length));
  const mostIn = (slot: number) =>
    mostAsked(
      pods.flatMap(({ pod, requests }) => {
        const own = requests[slot] ?? Number.NaN;
        return Number.isNaN(own) ? [] : [{ pod, requests: own }];
      }),
    );
  const now = mostIn(slots - 1);
  if (now === null) return null;
  let first = slots - 1;
  while (first > 0 && mostIn(first - 1)?.pod === now.pod) first--;
  if (slots - first < IN_A_ROW) return null;
  const told = pods.filter(({ requests }) => !Number.isNaN(requests[slots - 1] ?? Number.NaN)).length;
  return { ...now, pods: told, since: first === 0 ? null : start + first * length };
}
