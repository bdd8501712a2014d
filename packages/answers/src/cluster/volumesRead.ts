import { NEARLY } from '@zetopsis/core/findings';
import type { RunningOut } from '@zetopsis/core/trend';
import { type DurationMs, type EpochMs, HOUR } from '@zetopsis/core/units';
import {
  type Grid,
  gridEnd,
  gridFor,
  gridTime,
  type PodSpan,
  type VolumeSamples,
  type VolumeUsage,
  volumeUsage,
} from '@zetopsis/core/usage';

export interface VolumeRead {
  readonly namespace: string;
  readonly claim: string;
  readonly pod: PodSpan;
  /** Over the window. */
  readonly volume: VolumeUsage;
  /** As it is told everywhere; where it was not looked at, by a straight line through at least six hours, since volumes fill slowly. */
  readonly fullIn: DurationMs | null;
  /** Since when it has been nearly full without a break; null where it is not, or where that goes back beyond six hours. */
  readonly fullSince: EpochMs | null;
  /** The same of its entries. */
  readonly entriesSince: EpochMs | null;
}
/** At the window's end. */
export const entriesOf = ({ volume: { entriesUsed, entries }, entriesSince }: VolumeRead) => ({
  used: orNull(entriesUsed.at(-1)),
  count: orNull(entries.at(-1)),
  since: entriesSince,
});
const orNull = (value: number | undefined) => (value === undefined || Number.isNaN(value) ? null : value);

/** By namespace and claim. */
export type VolumesRead = ReadonlyMap<string, VolumeRead>;

export const claimKey = (namespace: string, claim: string): string => `${namespace}/${claim}`;

/** How far back volumes are read, whatever the window. */
export const volumesFrom = (grid: Grid): number => Math.min(grid.start, gridEnd(grid) - 6 * HOUR);

function leftOf(outcome: RunningOut | null, now: EpochMs, plain: DurationMs | null): DurationMs | null {
  if (outcome === null || outcome.is === 'unknown') return plain;
  if (outcome.is === 'later') return null;
  return outcome.is === 'now' ? 0 : Math.max(0, outcome.at - now);
}

/** The first point of the last stretch at which so much of it was used; null where that may have begun before the grid. */
function nearlySince(use: Float64Array, size: Float64Array, grid: Grid): EpochMs | null {
  let first: number | null = null;
  for (let i = grid.count - 1; i >= 0; i--) {
    const share = use[i]! / size[i]!;
    if (Number.isNaN(share)) continue;
    if (share < NEARLY) return first === null ? null : gridTime(grid, first);
    first = i;
  }
  // read later than the grid begins: with the first reading it is proven
  return first === null || first === 0 ? null : gridTime(grid, first);
}

/** Several pods may mount one claim: the one that was there last tells of it. */
export function readVolumes({
  pods,
  grid,
  interval,
  samplesOf,
  outcomeOf,
}: {
  readonly pods: readonly PodSpan[];
  readonly grid: Grid;
  readonly interval: DurationMs;
  readonly samplesOf: (podUid: string, claim: string) => VolumeSamples;
  /** When it is full, as its whole history tells; null where that was not looked at. */
  readonly outcomeOf?: (namespace: string, claim: string) => RunningOut | null;
}): VolumesRead {
  const long = gridFor(volumesFrom(grid), gridEnd(grid), interval);
  const read = new Map<string, VolumeRead>();
  for (const span of [...pods].sort((a, b) => a.from - b.from)) {
    const { namespace } = span.workload;
    for (const { claim } of span.pod.volumes ?? []) {
      const samples = samplesOf(span.pod.uid, claim);
      if (samples.used.times.length === 0) continue;
      const over = volumeUsage(samples, long, interval);
      read.set(claimKey(namespace, claim), {
        namespace,
        claim,
        pod: span,
        volume: volumeUsage(samples, grid, interval),
        fullIn: leftOf(outcomeOf?.(namespace, claim) ?? null, gridEnd(grid), over.fullIn),
        fullSince: nearlySince(over.use, over.size, long),
        entriesSince: nearlySince(over.entriesUsed, over.entries, long),
      });
    }
  }
  return read;
}
