import { Injectable } from '@nestjs/common';
import type { Reach } from '@zetopsis/core/access';
import { inventorySeries, kindsOfVital, matcher, type Read, type SeriesIn } from '@zetopsis/core/measures';
import type { DurationMs, EpochMs } from '@zetopsis/core/units';
import { inPieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { SeenSeries, type Within } from './seenSeries.ts';

/** Vitals that the inventory knows, within somebody's grants. */
@Injectable()
export class InventoryReads {
  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly seen: SeenSeries,
  ) {}

  /** Null where it is more than `most`. */
  async read({
    reach,
    read,
    within,
    from,
    to,
    every,
    most,
  }: {
    readonly reach: Reach;
    readonly read: Read;
    readonly within: Within;
    readonly from: EpochMs;
    readonly to: EpochMs;
    readonly every: DurationMs;
    readonly most: { readonly series: number; readonly samples: number };
  }): Promise<SeriesIn[] | null> {
    const name = read.of.name;
    const fits = matcher(read.where);
    const sees = this.seen.seesIn(reach, read.whateverTheScope ? { cluster: null, namespace: null } : within);
    const all: SeriesIn[] = [];
    let samples = 0;
    for (const connectionId of this.connections.ids()) {
      const cluster = this.connections.nameOf(connectionId);
      if (!read.whateverTheScope && within.cluster !== null && within.cluster !== cluster) continue;
      if (!reach.touches(cluster)) continue;
      const found = await this.inventory.within({ connectionId, kinds: kindsOfVital(name), from, to });
      const versions: typeof found = [];
      await inPieces(found, (version) => {
        if (sees(cluster, version.object.namespace ?? '')) versions.push(version);
      });
      const left = { series: most.series - all.length, samples: most.samples - samples };
      const made = await yieldedInPieces(
        inventorySeries({ name, versions, from, to, every, extra: { cluster }, fits, most: left }),
      );
      if (made === null) return null;
      for (const series of made) {
        samples += series.times.length;
        all.push(series);
      }
    }
    return all;
  }
}
