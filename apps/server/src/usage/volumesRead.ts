import type { Samples } from '@zetopsis/core/samples';
import { type DurationMs, HOUR } from '@zetopsis/core/units';
import { type Grid, gridEnd, gridFor, type PodSpan, type VolumeUsage, volumeUsage } from '@zetopsis/core/usage';

export interface VolumeRead {
  readonly namespace: string;
  readonly claim: string;
  readonly pod: PodSpan;
  /** Over the window. */
  readonly volume: VolumeUsage;
  /** From at least six hours, since volumes fill slowly. */
  readonly fullIn: DurationMs | null;
}
/** By namespace and claim. */
export type VolumesRead = ReadonlyMap<string, VolumeRead>;

export const claimKey = (namespace: string, claim: string): string => `${namespace}/${claim}`;

/** How far back volumes are read, whatever the window. */
export const volumesFrom = (grid: Grid): number => Math.min(grid.start, gridEnd(grid) - 6 * HOUR);

/** Several pods may mount one claim: the one that was there last tells of it. */
export function readVolumes(
  pods: readonly PodSpan[],
  grid: Grid,
  interval: DurationMs,
  samples: (vital: 'volume.usage' | 'volume.capacity', podUid: string, claim: string) => Samples,
): VolumesRead {
  const long = gridFor(volumesFrom(grid), gridEnd(grid), interval);
  const read = new Map<string, VolumeRead>();
  for (const span of [...pods].sort((a, b) => a.from - b.from)) {
    const { namespace } = span.workload;
    for (const { claim } of span.pod.volumes ?? []) {
      const used = samples('volume.usage', span.pod.uid, claim);
      if (used.times.length === 0) continue;
      const size = samples('volume.capacity', span.pod.uid, claim);
      read.set(claimKey(namespace, claim), {
        namespace,
        claim,
        pod: span,
        volume: volumeUsage(used, size, grid, interval),
        fullIn: volumeUsage(used, size, long, interval).fullIn,
      });
    }
  }
  return read;
}
