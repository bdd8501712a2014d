import { Injectable } from '@nestjs/common';
import {
  changedObjects,
  expectedOccurrences,
  heardOccurrences,
  kindsWatched,
  type Occurrence,
  ownOccurrences,
  silentOccurrences,
} from '@zetopsis/answers/rules';
import { namespaceOf, type ObjectPath, type RuleSelector } from '@zetopsis/contract';
import type { ObjectVersion } from '@zetopsis/core/inventory';
import type { Condition, ConditionKind, ConditionOf } from '@zetopsis/core/rules';
import { type EpochMs, SECOND } from '@zetopsis/core/units';
import { OwnStates } from '../../asking/now/ownState.service.ts';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ClusterTurns } from '../../inflow/connections/clusterTurns.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { EndpointsService } from '../../inflow/scraping/endpoints.service.ts';
import { AlertsService } from '../../keeping/alerts/alerts.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { OutboxService } from '../../keeping/outbox/outbox.service.ts';
import { NewestReadings } from '../../keeping/store/newestReadings.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { ClustersJudged } from './clustersJudged.ts';
import { COSTLY_MS, RuleCosts } from './ruleCosts.ts';

/** What happens is looked at so often at most. */
export const HAPPENED_EVERY = 10 * SECOND;
const MOST_GAPS = 20_000;
/** Kinds whose past is known moment by moment, cluster by cluster. */
const IN_CLUSTERS = ['cluster event', 'object change', 'expected'] as const satisfies readonly ConditionKind[];
export type InClusters = ConditionOf[(typeof IN_CLUSTERS)[number]];
export const isInClusters = (condition: Condition): condition is InClusters =>
  (IN_CLUSTERS as readonly string[]).includes(condition.is);

/** Whether its past is known to the moment. */
export const isDated = (condition: Condition): boolean => isInClusters(condition) || condition.is === 'not read';

/** What happened, was heard or was missing: as a rule looks at it live, and as it looks back over it. */
@Injectable()
export class OccurrenceLooks {
  constructor(
    private readonly connections: ConnectionsService,
    private readonly turns: ClusterTurns,
    private readonly endpoints: EndpointsService,
    private readonly inventory: InventoryService,
    private readonly clusters: ClustersJudged,
    private readonly configuration: ConfigurationService,
    private readonly ownStates: OwnStates,
    private readonly outbox: OutboxService,
    private readonly samples: SamplesService,
    private readonly newest: NewestReadings,
    private readonly alerts: AlertsService,
    private readonly costs: RuleCosts,
    private readonly clock: Clock,
  ) {}

  /** In one cluster, within a stretch of time that may end now. */
  async within(
    { when, applies }: { readonly when: InClusters; readonly applies: RuleSelector },
    connectionId: string,
    from: EpochMs,
    to: EpochMs,
  ): Promise<Occurrence[]> {
    const cluster = this.connections.nameOf(connectionId);
    const inventory = this.inventory.cluster(connectionId);
    switch (when.is) {
      case 'cluster event': {
        const events = await this.inventory.heardBetween(connectionId, from - when.standsSeconds * SECOND, to);
        return collected(heardOccurrences(cluster, inventory, events, when));
      }
      case 'object change': {
        const since = from - when.standsSeconds * SECOND;
        const versions = await this.versions(connectionId, kindsWatched(when), since, to);
        return (await collected(changedObjects(cluster, versions, when))).filter(
          (one) => one.to === null || one.to > from,
        );
      }
      case 'expected':
        return this.expected(when, applies, connectionId, { from, to });
    }
  }
  /** How it stands now: at the moment at which the rule is judged. */
  async now(
    rule: { readonly when: InClusters; readonly applies: RuleSelector },
    connectionId: string,
    now: EpochMs,
  ): Promise<Occurrence[]> {
    if (rule.when.is !== 'expected') return this.within(rule, connectionId, now, now);
    // what is there now is in memory; since when something is missing, the rule's own state knows
    const cluster = this.inventory.cluster(connectionId);
    const open = cluster.openVersions(new Set(rule.when.kinds));
    return this.expectedIn(rule.when, rule.applies, connectionId, open, { from: now, to: now + 1 });
  }
  private async expected(
    when: ConditionOf['expected'],
    applies: RuleSelector,
    connectionId: string,
    window: { readonly from: EpochMs; readonly to: EpochMs },
  ): Promise<Occurrence[]> {
    // what was there before is not known: it is not missing
    const from = Math.max(window.from, (await this.inventory.knownSince(connectionId, when.kinds)) ?? window.to);
    if (from >= window.to) return [];
    const versions = await this.versions(connectionId, when.kinds, from, window.to);
    return this.expectedIn(when, applies, connectionId, versions, { from, to: window.to });
  }
  private async expectedIn(
    condition: ConditionOf['expected'],
    applies: RuleSelector,
    connectionId: string,
    versions: readonly ObjectVersion[],
    { from, to }: { readonly from: EpochMs; readonly to: EpochMs },
  ): Promise<Occurrence[]> {
    const cluster = this.connections.nameOf(connectionId);
    if (!this.isScope(applies, connectionId)) return [];
    // names of the rule's own selector are of what it looks at, not of what it expects
    const selects = (path: ObjectPath) =>
      this.clusters.selects({ ...applies, namespaces: [] }, path) && inSome(applies, path);
    // where no cluster is named, something is expected in those that have such a namespace
    const inventory = this.inventory.cluster(connectionId);
    const namespaces =
      applies.clusters.length > 0
        ? applies.namespaces
        : applies.namespaces.filter((namespace) => inventory.named('namespace', '', namespace) !== undefined);
    if (applies.namespaces.length > 0 && namespaces.length === 0) return [];
    return collected(expectedOccurrences({ cluster, versions, applies: { namespaces }, condition, selects, from, to }));
  }
  /** Whether anything is expected in a cluster at all. */
  private isScope({ clusters, environments }: RuleSelector, connectionId: string): boolean {
    const cluster = this.connections.nameOf(connectionId);
    if (clusters.length > 0 && !clusters.includes(cluster)) return false;
    return environments.length === 0 || environments.includes(this.connections.traitsOf(connectionId).environment);
  }
  private versions(
    connectionId: string,
    kinds: Parameters<InventoryService['withinUntilNow']>[1],
    from: EpochMs,
    to: EpochMs,
  ): Promise<ObjectVersion[]> {
    return to >= this.clock.now()
      ? this.inventory.withinUntilNow(connectionId, kinds, from)
      : this.inventory.within({ connectionId, kinds, from, to });
  }

  /** When which sources were silent; `more`: older ones are not looked at, there are too many. */
  async silentWithin(from: EpochMs, to: EpochMs): Promise<{ readonly found: Occurrence[]; readonly more: boolean }> {
    const [turned, gaps] = await Promise.all([
      this.turns.within(from, to),
      this.endpoints.silences(from, to, MOST_GAPS),
    ]);
    // one that was removed since is nobody's any more
    const clusters = turned.filter(({ cluster }) => this.connections.idOf(cluster) !== undefined);
    const pages = gaps.map(({ connectionId, ...gap }) => ({
      ...gap,
      cluster: connectionId === null ? null : this.connections.nameOf(connectionId),
    }));
    return { found: await collected(silentOccurrences(clusters, pages)), more: gaps.length >= MOST_GAPS };
  }
  /** Of Zetopsis itself. */
  async ofItself(now: EpochMs): Promise<Occurrence[]> {
    const { lost, refusedSeries } = this.samples.status;
    const oldest = [...this.newest.unpacked.values()].reduce((least, { first }) => Math.min(least, first), now);
    const costs = (await this.alerts.ruleNumbers()).flatMap(({ id, key }) => {
      const cost = this.costs.of(id);
      const document = this.configuration.get('rule', key);
      return cost === null || document === null || document.state === 'off' ? [] : [{ name: document.name, ...cost }];
    });
    return [
      ...ownOccurrences({
        own: { ...this.ownStates.now(), at: now },
        dead: await this.outbox.dead(null),
        lost,
        refused: refusedSeries,
        lag: now - oldest,
        unjudged: costs.flatMap(({ name, problem }) => (problem === null ? [] : [{ name, problem }])),
        costly: costs.filter(({ tookMs, problem }) => problem === null && tookMs > COSTLY_MS),
      }),
    ];
  }
}
async function collected<T>(items: Iterable<T>): Promise<T[]> {
  const all: T[] = [];
  await inPieces(items, (item) => all.push(item));
  return all;
}
const inSome = ({ namespaces }: RuleSelector, path: ObjectPath): boolean => {
  const own = namespaceOf(path);
  return namespaces.length === 0 || own === null || namespaces.includes(own);
};
