import { Injectable } from '@nestjs/common';
import { criticalityIn } from '@zetopsis/answers/findings';
import { NO_TRAITS, selects, type Traits, traitsOf } from '@zetopsis/answers/rules';
import { clusterOf, type ObjectPath, type RuleDocument, type RuleSelector } from '@zetopsis/contract';
import { conditionOf, stricterOf, type Thresholds, withOtherBounds } from '@zetopsis/core/rules';
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
      environment: () => {
        const id = this.connections.idOf(clusterOf(path) ?? '');
        return id === undefined ? '' : this.connections.traitsOf(id).environment;
      },
    });
  }
  /** What a rule compares an object with: its own numbers, or the first others that fit the object. */
  thresholdsOf(
    rule: Pick<RuleDocument, 'when' | 'levels' | 'clears' | 'overrides' | 'stricter'>,
  ): (path: ObjectPath) => Thresholds {
    const own = thresholdsOf(rule);
    const stricter = new Map(Object.entries(rule.stricter));
    if (rule.overrides.length === 0 && stricter.size === 0) return () => own;
    return (path) => {
      const other = rule.overrides.find(({ applies }) => this.selects(applies, path));
      const of = other === undefined ? own : withOtherBounds(own, other);
      const asked = stricter.size === 0 ? undefined : stricter.get(this.owners.ownerAt(path)?.key ?? '');
      return asked === undefined ? of : stricterOf(of, asked);
    };
  }
  /** What stands in no cluster that is known bears nothing. */
  private traitsAt(path: ObjectPath): Traits {
    const id = this.connections.idOf(clusterOf(path) ?? '');
    return id === undefined ? NO_TRAITS : traitsOf(this.of(id), path);
  }
}
/** A rule's own numbers. */
export const thresholdsOf = ({
  when,
  levels,
  clears,
}: Pick<RuleDocument, 'when' | 'levels' | 'clears'>): Thresholds => ({
  levels,
  clears,
  side: conditionOf(when).side(when),
});
