import { Controller, Get, Query } from '@nestjs/common';
import {
  ScopeQuery,
  type SheetAnswer,
  type TapeAnswer,
  type UsageAnswer,
  type UsageColumn,
  WindowQuery,
} from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { formatCount } from '@zetopsis/core/format';
import { byTightness, type UsageNode } from '@zetopsis/core/usage';
import type { z } from 'zod';
import { demand } from '../access/demand.ts';
import { Seen } from '../access/reached.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { InventoryService } from '../inventory/inventory.service.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { Refusal } from '../platform/refusals.ts';
import { Settings } from '../platform/settings.ts';
import { AlertsService } from '../rules/alerts.service.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { ClusterColumns } from './columns.ts';
import { marksOf } from './marks.ts';
import { sheetOf } from './sheet.ts';
import { type SeenUsage, UsageService } from './usage.service.ts';

type Scope = z.infer<typeof ScopeQuery>;

@Controller('api/usage')
export class UsageController {
  constructor(
    private readonly usage: UsageService,
    private readonly connections: ConnectionsService,
    private readonly endpoints: EndpointsService,
    private readonly inventory: InventoryService,
    private readonly owners: OwnersService,
    private readonly alerts: AlertsService,
    private readonly settings: Settings,
  ) {}

  /** The columns of the drill path: clusters, then the children of each part of the path. */
  @Get()
  async columns(
    @Query({ schema: ScopeQuery }) scope: Scope,
    @Query({ schema: WindowQuery }) query: WindowQuery,
    @Seen() reach: Reach,
  ): Promise<UsageAnswer> {
    const window = this.usage.window(query.from, query.to);
    const path = scope.in;
    const clusters = await Promise.all(this.usage.idsIn(reach, []).map((id) => this.usage.seen(reach, id, window)));
    const views = clusters.map((usage) => ({ usage, columns: new ClusterColumns(usage, window.to) }));
    const order = [...views].sort((a, b) => byTightness('cpu')(a.usage.tree, b.usage.tree));
    const rows = order.map(({ columns }) => columns.clusterRow());
    const nodes = rows.reduce((sum, { desired }) => sum + (desired ?? 0), 0);
    const readyNodes = rows.reduce((sum, { ready }) => sum + (ready ?? 0), 0);
    const columns: UsageColumn[] = [
      {
        level: 'cluster',
        rows,
        left: 0,
        summary: `${rows.length} connected · ${formatCount(nodes, 'node')}, ${readyNodes} ready`,
      },
    ];
    const [cluster, namespace, workload, pod] = path;
    const chosen = views.find(({ usage }) => usage.name === cluster)?.columns;
    if (chosen) {
      columns.push(chosen.namespaces());
      if (namespace !== undefined) columns.push(chosen.workloadsOf(namespace));
      if (namespace !== undefined && workload !== undefined) columns.push(chosen.podsColumn(namespace, workload));
      if (namespace !== undefined && workload !== undefined && pod !== undefined)
        columns.push(chosen.containers(namespace, workload, pod));
    }
    return { window, path, columns, blind: this.blindWords(reach, path) };
  }

  private blindWords(reach: Reach, path: readonly string[]): string[] {
    const shown = this.connections.list(reach).filter(({ name }) => path[0] === undefined || name === path[0]);
    const clusters = shown
      .filter(({ state }) => state === 'blind' || state === 'partly reading')
      .map(({ name, state, reason }) => `${name} is ${state}: ${reason ?? 'no reason known'}`);
    const failing = this.endpoints
      .list(reach)
      .filter(
        ({ state, connection }) =>
          (state === 'failing' || state === 'late') &&
          shown.some(({ name, state: cluster }) => name === connection && cluster !== 'blind'),
      );
    const words =
      failing.length === 0
        ? []
        : [
            `${formatCount(failing.length, 'node page')} of ${failing[0]!.connection} not read: ${failing[0]!.lastError ?? 'late'}`,
          ];
    return [...clusters, ...words];
  }

  @Get('object')
  async object(
    @Query({ schema: ScopeQuery }) scope: Scope,
    @Query({ schema: WindowQuery }) query: WindowQuery,
    @Seen() reach: Reach,
  ): Promise<SheetAnswer> {
    const window = this.usage.window(query.from, query.to);
    const path = scope.in;
    const usage = await this.clusterOf(reach, path, window);
    const alerts = await this.alerts.within(reach, window.from, window.to);
    const namespace = path[1];
    const uids = this.uidsOf(usage, path);
    const events =
      uids === null
        ? namespace === undefined
          ? []
          : await this.inventory.eventsIn(usage.connectionId, namespace, window.from, window.to)
        : await this.inventory.eventsAbout(usage.connectionId, uids, window.from, window.to);
    const eventState = this.connections.get(reach, usage.connectionId).kinds.find(({ kind }) => kind === 'event');
    const eventsMissing =
      eventState && eventState.state !== 'watching' ? (eventState.reason ?? 'Events are not read yet.') : null;
    const owner = namespace === undefined ? null : (this.owners.ownerOf(usage.name, namespace, path[2])?.name ?? null);
    const sheet = sheetOf(
      { usage, path, window, owner, alerts, zone: this.settings.config.zone },
      events,
      eventsMissing,
    );
    if (!sheet)
      throw new Refusal(
        'notFound',
        'Nothing of this name was there in this window. Widen the window or look one level higher.',
      );
    return sheet;
  }

  private async clusterOf(
    reach: Reach,
    path: readonly string[],
    window: { from: number; to: number; live: boolean },
  ): Promise<SeenUsage> {
    const [id] = path[0] === undefined ? [] : this.usage.idsIn(reach, path);
    if (id === undefined)
      throw new Refusal('notFound', 'This cluster is not connected. Choose another one in the scope line.');
    const [cluster = '', namespace] = path;
    if (namespace !== undefined && !namespace.includes(':')) demand(reach, 'read', cluster, namespace);
    return this.usage.seen(reach, id, window);
  }

  /** Whose events belong to an object: its own and those of what it owns. Null for whole namespaces. */
  private uidsOf(usage: SeenUsage, path: readonly string[]): string[] | null {
    const [, namespace, workload, pod] = path;
    if (namespace === undefined || workload === undefined) return null;
    const spans = usage.view.pods.filter((span) => span.workload.namespace === namespace);
    if (pod !== undefined) return spans.filter((span) => span.pod.name === pod).map((span) => span.pod.uid);
    const node = usage.tree.children.find(({ key }) => key === namespace)?.children.find(({ key }) => key === workload);
    const sets = usage.view.replicaSets
      .filter(({ owner }) => owner !== null && owner.uid === node?.uid)
      .map(({ uid }) => uid);
    return [...(node?.uid ? [node.uid] : []), ...sets, ...(node?.children ?? []).flatMap(({ uid }) => uid ?? [])];
  }

  /** The band of time along the bottom: load of the scope, marks, gaps, age of the data. */
  @Get('tape')
  async tape(
    @Query({ schema: ScopeQuery }) scope: Scope,
    @Query({ schema: WindowQuery }) query: WindowQuery,
    @Seen() reach: Reach,
  ): Promise<TapeAnswer> {
    const span = this.usage.window(query.from, query.to);
    const path = scope.in;
    const ids = this.usage.idsIn(reach, path);
    const [clusters, alerts, gaps] = await Promise.all([
      Promise.all(ids.map((id) => this.usage.seen(reach, id, span))),
      this.alerts.within(reach, span.from, span.to),
      this.endpoints.gaps(ids, span.from, span.to),
    ]);
    const lines = clusters.flatMap(({ tree }) => follow(tree, path.slice(1))?.lines.cpu.read ?? []);
    const grid = clusters[0]?.input.grid ?? { start: span.from, step: 60_000, count: 1 };
    const load = Array.from({ length: grid.count }, (_, i) => {
      const values = lines.map((line) => line[i]).filter((value) => value !== undefined && !Number.isNaN(value));
      return values.length === 0 ? null : values.reduce((sum, value) => sum! + value!, 0)!;
    });
    return {
      span,
      grid,
      load,
      loadOf: path.length === 0 ? 'all clusters' : path.at(-1)!,
      marks: clusters.flatMap((usage) => marksOf(usage, alerts, path, span.from, span.to)).sort((a, b) => a.at - b.at),
      gaps: merged(
        gaps.map((gap) => ({
          from: Math.max(gap.from, span.from),
          to: Math.min(gap.to ?? span.to, span.to),
          reason: gap.reason,
        })),
      ),
      newestAt: this.endpoints.newestReading(ids),
    };
  }
}

function follow(node: UsageNode, path: readonly string[]): UsageNode | undefined {
  return path.reduce<UsageNode | undefined>((at, key) => at?.children.find((child) => child.key === key), node);
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
