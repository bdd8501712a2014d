import { Injectable } from '@nestjs/common';
import {
  labelsAdded,
  type ObjectSpan,
  type ObjectTable,
  type Plan,
  TIED_KINDS,
  tieObjects,
} from '@zetopsis/core/measures';
import type { EpochMs } from '@zetopsis/core/units';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { OwnersService } from '../owners/owners.service.ts';

/** What the objects that series belong to are called, for `add labels`. Only labels of series that somebody sees are looked up in it. */
@Injectable()
export class ObjectTables {
  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly owners: OwnersService,
  ) {}

  /** Empty where a plan adds no labels. `clusters`: those that something was read of. */
  async of(
    plan: Plan,
    clusters: ReadonlySet<string>,
    { from, to }: { readonly from: EpochMs; readonly to: EpochMs },
  ): Promise<ObjectTable> {
    const table = new Map<string, ObjectSpan[]>();
    const wanted = labelsAdded(plan);
    if (wanted.size === 0) return table;
    for (const cluster of clusters) {
      const connectionId = this.connections.idOf(cluster);
      if (connectionId === undefined) continue;
      const versions = await this.inventory.within({ connectionId, kinds: [...TIED_KINDS], from, to });
      const owners = this.owners.ofCluster(cluster);
      const teamOf = (namespace: string, workload: string | null) =>
        workload === null ? (owners.ofNamespace(namespace)?.name ?? null) : owners.ofWorkload(namespace, workload);
      await inPieces(tieObjects(table, { cluster, versions, wanted, teamOf }), () => undefined);
    }
    return table;
  }
}
