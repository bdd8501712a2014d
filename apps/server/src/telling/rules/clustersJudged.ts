import { Injectable } from '@nestjs/common';
import { criticalityIn } from '@zetopsis/answers/findings';
import { selects, type Traits, traitsOf } from '@zetopsis/answers/rules';
import { clusterOf, type ObjectPath, type RuleSelector } from '@zetopsis/contract';
import { CriticalityService } from '../../asking/owners/criticality.service.ts';
import { OwnersService } from '../../asking/owners/owners.service.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';

/** Clusters as rules and hushes look at them. */
@Injectable()
export class ClustersJudged {
  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly criticality: CriticalityService,
    private readonly owners: OwnersService,
  ) {}

  of(connectionId: string) {
    const inventory = this.inventory.cluster(connectionId);
    const name = this.connections.nameOf(connectionId);
    return { name, inventory, criticalityOf: criticalityIn(inventory, this.criticality.of(name)) };
  }
  /** Whether what stands at a path is one of those that a rule or a hush is about. */
  selects(selector: RuleSelector, path: ObjectPath): boolean {
    return selects(selector, path, {
      team: () => this.owners.ownerAt(path)?.key ?? null,
      traits: () => this.traitsAt(path),
    });
  }
  /** What stands in no cluster that is known bears nothing. */
  private traitsAt(path: ObjectPath): Traits {
    const id = this.connections.idOf(clusterOf(path) ?? '');
    return id === undefined ? { labels: {}, criticality: 'ordinary' } : traitsOf(this.of(id), path);
  }
}
