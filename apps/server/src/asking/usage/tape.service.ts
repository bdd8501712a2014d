import { Injectable } from '@nestjs/common';
import { loadedPath, nodeAt } from '@zetopsis/answers/columns';
import { maintenanceOf, marksOf } from '@zetopsis/answers/marks';
import {
  clusterOf,
  type HushDocument,
  type ObjectPath,
  type ScopeQuery,
  type TapeAnswer,
  touches,
  type WindowQuery,
  writePath,
} from '@zetopsis/contract';
import { hushedWithin } from '@zetopsis/core/rules';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { EndpointsService } from '../../inflow/scraping/endpoints.service.ts';
import { AlertsService } from '../../keeping/alerts/alerts.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { type Asker, KeptForTeams } from '../owners/keptForTeams.service.ts';
import { StretchesService, scopeOf } from '../stretches/stretches.service.ts';
import { HostsService } from './hosts.service.ts';
import { UsageService } from './usage.service.ts';

const MOST_HUSHES = 400;
/** The band of time along the bottom. */
@Injectable()
export class TapeService {
  constructor(
    private readonly usage: UsageService,
    private readonly hosts: HostsService,
    private readonly configuration: ConfigurationService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly endpoints: EndpointsService,
    private readonly alerts: AlertsService,
    private readonly stretches: StretchesService,
    private readonly forTeams: KeptForTeams,
  ) {}

  /** The band of time along the bottom: load of the scope, marks, gaps, age of the data. */
  async tape({ reach, person }: Asker, scope: ScopeQuery, query: WindowQuery): Promise<TapeAnswer> {
    const span = this.usage.window(query.from, query.to);
    const path = scope.in;
    const ids = this.usage.idsIn(reach, scope);
    const [clusters, alerts, gaps, revisions] = await Promise.all([
      Promise.all(ids.map((id) => this.usage.seen(reach, id, span))),
      this.alerts.within({ reach, from: span.from, to: span.to }),
      this.endpoints.gaps(ids, span.from, span.to),
      // what was configured concerns whoever sees everything
      path.is === 'everything' && reach.mayEverywhere('read') ? this.configuration.within(span.from, span.to) : [],
    ]);
    const loaded = loadedPath(path);
    const name = path.is === 'host' ? path.host : null;
    const host = name === null ? null : await this.hosts.load(reach, name, span);
    const lines = host ? [host.load] : clusters.flatMap((usage) => nodeAt(usage, loaded)?.lines.cpu.read ?? []);
    const grid = host?.grid ?? clusters[0]?.input.grid ?? { start: span.from, step: 60_000, count: 1 };
    const load = Array.from({ length: grid.count }, (_, i) => {
      const values = lines.map((line) => line[i]).filter((value) => value !== undefined && !Number.isNaN(value));
      return values.length === 0 ? null : values.reduce((sum, value) => sum! + value!, 0)!;
    });
    return {
      span,
      grid,
      load,
      loadOf: name ?? writePath(loaded).at(-1) ?? scope.clusters ?? 'all clusters',
      marks: [
        ...clusters.flatMap((usage) => marksOf({ usage, alerts, path, from: span.from, to: span.to })),
        ...revisions.map(({ at, id, by, what }) => ({
          at,
          kind: 'revision' as const,
          severity: null,
          title: `revision ${id}: ${by} ${what}`,
          path: [],
        })),
      ].sort((a, b) => a.at - b.at),
      stretches: this.stretches
        .list({ reach, person }, span.from, span.to)
        .filter(({ document }) => touches(scopeOf(document), path))
        .map(({ key, mayChange, document: { kind, title, scope: parts, from, to } }) => ({
          key,
          kind,
          title,
          mayChange,
          path: parts,
          from: Date.parse(from),
          to: to === null ? null : Date.parse(to),
        }))
        .reverse(),
      hushes: await this.hushesOver({ reach, person }, path, ids, span),
      gaps: merged(
        gaps.map((gap) => ({
          from: Math.max(gap.from, span.from),
          to: Math.min(gap.to ?? span.to, span.to),
          reason: gap.reason,
        })),
      ),
      newestAt: host ? host.newestAt : this.endpoints.newestReading(ids),
    };
  }
  /** Of those that may be about the scope, when they hold. */
  private async hushesOver(
    asker: Asker,
    path: ObjectPath,
    ids: readonly string[],
    { from, to }: { readonly from: number; readonly to: number },
  ): Promise<TapeAnswer['hushes']> {
    const cluster = clusterOf(path);
    const found: TapeAnswer['hushes'] = [];
    const whileMaintained: HushDocument[] = [];
    await inPieces(this.configuration.all('hush').values(), (hush) => {
      const { reason, team, applies, when } = hush;
      if (!this.forTeams.sees(asker, team)) return;
      if (cluster !== null && applies.clusters.length > 0 && !applies.clusters.includes(cluster)) return;
      if (when.is === 'maintenance') whileMaintained.push(hush);
      found.push(...hushedWithin(when, from, to).map((span) => ({ reason, ...span })));
    });
    for (const id of whileMaintained.length === 0 ? [] : ids) {
      const own = this.connections.nameOf(id);
      const nodes = path.is === 'node' || path.is === 'pod' || path.is === 'container' ? path.node : null;
      for (const { node, ...span } of await this.maintenance(id, { from, to })) {
        if (nodes !== null && nodes !== node) continue;
        // what a node is called is for those who see the whole cluster
        const name = asker.reach.whole(own) ? node : 'a node';
        for (const { reason, applies } of whileMaintained)
          if (applies.clusters.length === 0 || applies.clusters.includes(own))
            found.push({ reason: `${reason} (${name} takes no new pods)`, ...span });
      }
    }
    return found.sort((a, b) => a.from - b.from).slice(0, MOST_HUSHES);
  }
  private async maintenance(connectionId: string, { from, to }: { readonly from: number; readonly to: number }) {
    const versions = await this.inventory.within({ connectionId, kinds: ['node'], from, to });
    return maintenanceOf(versions, from, to);
  }
}

/** Overlapping gaps of several endpoints for the same reason are one stretch. */
function merged(gaps: { from: number; to: number; reason: string }[]): { from: number; to: number; reason: string }[] {
  const result: { from: number; to: number; reason: string }[] = [];
  for (const gap of gaps.sort((a, b) => a.from - b.from)) {
    const last = result.findLast(({ reason }) => reason === gap.reason);
    if (last && gap.from <= last.to) last.to = Math.max(last.to, gap.to);
    else if (gap.to > gap.from) result.push({ ...gap });
  }
  return result;
}
