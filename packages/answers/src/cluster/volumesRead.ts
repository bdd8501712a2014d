import { type DurationMs, HOUR } from '@zetopsis/core/units';
import {
  type Grid,
  gridEnd,
  gridFor,
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
  /** From at least six hours, since volumes fill slowly. */
  readonly fullIn: DurationMs | null;
}
/** At the window's end. */
export const entriesOf = ({ entriesUsed, entries }: VolumeUsage) => ({
  used: orNull(entriesUsed.at(-1)),
  count: orNull(entries.at(-1)),
});
const orNull = (value: number | undefined) => (value === undefined || Number.isNaN(value) ? null : value);

/** By namespace and claim. */
export type VolumesRead = ReadonlyMap<string, VolumeRead>;

export const claimKey = (namespace: string, claim: string): string => `${namespace}/${claim}`;

/** How far back volumes are read, whatever the window. */
export const volumesFrom = (grid: Grid): number => Math.min(grid.start, gridEnd(grid) - 6 * HOUR);

/** Several pods may mount one claim: the one that was there last tells of it. */
export function readVolumes({
  pods,
  grid,
  interval,
  samplesOf,
}: {
  readonly pods: readonly PodSpan[];
  readonly grid: Grid;
  readonly interval: DurationMs;
  readonly samplesOf: (podUid: string, claim: string) => VolumeSamples;
}): VolumesRead {
  const long = gridFor(volumesFrom(grid), gridEnd(grid), interval);
  const read = new Map<string, VolumeRead>();
  for (const span of [...pods].sort((a, b) => a.from - b.from)) {
    const { namespace } = span.workload;
    for (const { claim } of span.pod.volumes ?? []) {
      const samples = samplesOf(span.pod.uid, claim);
      if (samples.used.times.length === 0) continue;
      read.set(claimKey(namespace, claim), {
        namespace,
        claim,
        pod: span,
        volume: volumeUsage(samples, grid, interval),
        fullIn: volumeUsage(samples, long, interval).fullIn,
      });
    }
  }
  return read;
}
