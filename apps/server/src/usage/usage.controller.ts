import { Controller, Get, Query } from '@nestjs/common';
import {
  AgainstQuery,
  type By,
  ByQuery,
  type LogAnswer,
  LogQuery,
  OtherQuery,
  ScopeQuery,
  type SheetAnswer,
  type TableAnswer,
  TableQuery,
  type UsageAnswer,
  type UsageColumn,
  type VersionsAnswer,
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
import { inPieces } from '../platform/inPieces.ts';
import { Refusal } from '../platform/refusals.ts';
import { Clock, Settings } from '../platform/settings.ts';
import { AlertsService } from '../rules/alerts.service.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { ClusterColumns, type Owners } from './columns.ts';
import { FlowsService } from './flows.service.ts';
import { counterpart, type Found, find } from './found.ts';
import { HostsService } from './hosts.service.ts';
import { hostOf, nodeOf, readPodKey, teamOf, volumeOf } from './objectPaths.ts';
import { OtherUsageService } from './otherUsage.service.ts';
import { ProcessesService } from './processes.service.ts';
import { RequestsService } from './requests.service.ts';
import { RunningOutService } from './runningOut.service.ts';
import { concerns, inTime, mayTell } from './runningOutLines.ts';
import { type SheetInput, thingSheet, usageSheet } from './sheet.ts';
import { tableOf, tableRows, withFlows } from './table.ts';
import { behind, findThing, type Thing } from './things.ts';
import { type SeenUsage, UsageService, type Window } from './usage.service.ts';
import { versionLines } from './versionLines.ts';
import { columnsBelow, uidsOf } from './walkPath.ts';

const MOST_TOLD = 8;
const MOST_TABLE_ROWS = 5000;
const MOST_VERSIONS = 40;
const LOG_LINES = 50;
const LOG_WIDTH = 4000;

/** Figures are worked out when they are first looked at: of what the columns below a path show, in pieces. */
async function lookedAt(tree: UsageNode, path: readonly string[]): Promise<void> {
  for (let node: UsageNode | undefined = tree, depth = 0; node; depth++) {
    await inPieces(node.children, (child) => void child.usage);
    const key = path[depth];
    node = key === undefined ? undefined : node.children.find((child) => child.key === key);
  }
}

@Controller('api/usage')
export class UsageController {
  constructor(
    private readonly usage: UsageService,
    private readonly flows: FlowsService,
    private readonly hosts: HostsService,
    private readonly connections: ConnectionsService,
    private readonly endpoints: EndpointsService,
    private readonly inventory: InventoryService,
    private readonly owners: OwnersService,
    private readonly alerts: AlertsService,
    private readonly runningOut: RunningOutService,
    private readonly others: OtherUsageService,
    private readonly requests: RequestsService,
    private readonly processes: ProcessesService,
    private readonly settings: Settings,
    private readonly clock: Clock,
  ) {}

  /** The columns of the drill path: clusters, then the children of each part of the path. */
  @Get()
  async columns(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) query: WindowQuery,
    @Query({ schema: AgainstQuery }) { shift }: AgainstQuery,
    @Query({ schema: ByQuery }) { by }: { by: By },
    @Query({ schema: OtherQuery }) { of }: z.infer<typeof OtherQuery>,
    @Seen() reach: Reach,
  ): Promise<UsageAnswer> {
    const window = this.usage.window(query.from, query.to);
    const against = this.usage.against(window, shift);
    const path = scope.in;
    const ids = this.usage.idsIn(reach, { ...scope, in: [] });
    const views = await Promise.all(
      ids.map(async (id) => {
        const usage = await this.usage.seen(reach, id, window);
        // of the very length that the first has, so that both are drawn on one grid
        const then = this.usage.against(usage.window, shift);
        const other = then === null ? null : await this.usage.seen(reach, id, then);
        const looked =
          of === undefined
            ? null
            : {
                now: await this.others.figures(usage, of),
                before: other === null ? null : await this.others.figures(other, of),
              };
        return { usage, columns: new ClusterColumns(usage, window.to, other, this.ownersIn(usage.name), looked) };
      }),
    );
    const order = [...views].sort((a, b) => byTightness('cpu')(a.usage.tree, b.usage.tree));
    const rows = order.map(({ columns }) => columns.clusterRow());
    const nodes = rows.reduce((sum, { desired }) => sum + (desired ?? 0), 0);
    const readyNodes = rows.reduce((sum, { ready }) => sum + (ready ?? 0), 0);
    // what kind of cluster is looked at concerns no machine outside of all
    const hosts = scope.clusters === undefined ? await this.hosts.rows(reach, window, against, of) : [];
    const columns: UsageColumn[] = [
      {
        level: 'cluster',
        rows: [...rows, ...hosts],
        left: 0,
        summary: `${rows.length} connected${nodes === 0 && rows.length > 0 ? ', nodes not known at that time' : ` · ${formatCount(nodes, 'node')}, ${readyNodes} ready`}${hosts.length === 0 ? '' : ` · ${formatCount(hosts.length, 'host')} outside`}`,
      },
    ];
    const chosen = views.find(({ usage }) => usage.name === path[0]);
    if (chosen) {
      await lookedAt(chosen.usage.tree, path.slice(1));
      columns.push(...columnsBelow(chosen.columns, path.slice(1), by));
    }
    return { window, path, against, of: of ?? null, columns, blind: this.blindWords(reach, path) };
  }

  /** All rows of one level below a path as one table, with what the columns leave out. */
  @Get('table')
  async table(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) query: WindowQuery,
    @Query({ schema: TableQuery }) { level, find }: z.infer<typeof TableQuery>,
    @Seen() reach: Reach,
  ): Promise<TableAnswer> {
    const window = this.usage.window(query.from, query.to);
    const path = scope.in;
    const answer: TableAnswer = { window, level, rows: [], left: 0 };
    for (const id of this.usage.idsIn(reach, scope)) {
      const usage = await this.usage.seen(reach, id, window);
      const columns = new ClusterColumns(usage, window.to, null, this.ownersIn(usage.name));
      const { kept, left } = await tableOf(
        tableRows(usage, columns, level, path),
        find,
        MOST_TABLE_ROWS - answer.rows.length,
      );
      const pods = new Set(kept.flatMap((placed) => placed.pods.flatMap(({ uid }) => uid ?? [])));
      const flows = await this.flows.ofPods(usage, pods);
      await inPieces(kept, (placed) => answer.rows.push(withFlows(placed, flows)));
      answer.left += left;
    }
    return answer;
  }

  private ownersIn(cluster: string): Owners {
    const known = new Map<string, { key: string; name: string } | null>();
    return {
      ofNamespace: (namespace) => {
        let team = known.get(namespace);
        if (team === undefined) {
          team = this.owners.ownerOf(cluster, namespace);
          known.set(namespace, team);
        }
        return team;
      },
      ofWorkload: (namespace, workload) => this.owners.ownerOf(cluster, namespace, workload)?.name ?? null,
    };
  }
  private blindWords(reach: Reach, path: readonly string[]): string[] {
    const shown = this.connections.list(reach).filter(({ name }) => path[0] === undefined || name === path[0]);
    const clusters = shown
      .filter(({ state }) => state === 'blind' || state === 'partly reading')
      .map(({ name, state, reason }) => `${name} is ${state}: ${reason ?? 'no reason known'}`);
    const failing = this.endpoints
      .list(reach)
      .filter(
        ({ kind, state, connection }) =>
          kind === 'node' &&
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
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) query: WindowQuery,
    @Query({ schema: AgainstQuery }) { shift }: AgainstQuery,
    @Seen() reach: Reach,
  ): Promise<SheetAnswer> {
    const window = this.usage.window(query.from, query.to);
    const path = scope.in;
    const host = hostOf(path[0]);
    if (host !== null) return this.hosts.sheet(reach, host, window, this.usage.against(window, shift));
    const usage = await this.clusterOf(reach, path, window);
    // of the very length that the first has, so that both are drawn on one grid
    const against = this.usage.against(usage.window, shift);
    const other = against === null ? null : await this.clusterOf(reach, path, against);
    const telling = { at: window.to, zone: this.settings.config.zone };
    const alerts = await this.alerts.within(reach, window.from, window.to);
    const columns = new ClusterColumns(usage, window.to, null, this.ownersIn(usage.name));
    const thing = findThing(usage, path, other, telling);
    const found = thing === null ? find(usage, columns, path, window.to) : null;
    if (!thing && !found)
      throw new Refusal(
        'notFound',
        'Nothing of this name was there in this window. Widen the window or look one level higher.',
      );
    const then = other && found ? find(other, new ClusterColumns(other, against!.to), path, against!.to) : null; // set together
    const input: SheetInput = {
      usage,
      path,
      window,
      owner: this.ownerOf(usage.name, path),
      alerts,
      telling,
      runningOut: window.live ? this.runningOutOf(usage, path) : null,
      elsewhere: this.elsewhere(reach, usage.name, path),
      requests: await this.requestsOf(usage, other, thing, found, then),
      processes: found ? await this.processes.tablesOf(usage, found) : [],
      nodeDisk: found ? await this.flows.nodeDiskOf(usage, found) : null,
      ...(await this.eventsFor(reach, usage, path, window, thing ? [thing.object.uid] : null)),
    };
    if (thing) return thingSheet(input, thing);
    const own = found!; // one of the two is there
    const otherColumns = other && new ClusterColumns(other, against!.to); // set together
    const flows = await this.flows.flowsOf(usage, own, other && then ? { usage: other, found: then } : null);
    return usageSheet(
      input,
      columns,
      own,
      flows,
      other && otherColumns ? counterpart(other, otherColumns, own, path, against!.to) : null,
    );
  }

  /** Of pods, of what they belong to, and of the services that they answer for. */
  private requestsOf(
    usage: SeenUsage,
    other: SeenUsage | null,
    thing: Thing | null | undefined,
    found: Found | null,
    then: Found | null,
  ): Promise<SheetAnswer['requests']> {
    const service = thing?.object.kind === 'service' ? thing.object : null;
    if (service) {
      const asked = (one: SeenUsage) => ({ usage: one, pods: behind(one, service) });
      return this.requests.flowsOf(asked(usage), other && asked(other));
    }
    if (found === null || (found.level !== 'pod' && found.level !== 'workload')) return Promise.resolve([]);
    return this.requests.flowsOf({ usage, pods: found.pods }, other && then ? { usage: other, pods: then.pods } : null);
  }

  /** The last lines that a container wrote, asked of the cluster when somebody wants them; nothing of it is kept. */
  @Get('log')
  async log(
    @Query({ schema: ScopeQuery }) { in: path }: ScopeQuery,
    @Query({ schema: LogQuery }) { pod, container, previous }: z.infer<typeof LogQuery>,
    @Seen() reach: Reach,
  ): Promise<LogAnswer> {
    const [cluster = '', namespace = ''] = path;
    demand(reach, 'read', cluster, namespace);
    const id = this.connections.idOf(cluster);
    if (id === undefined) throw new Refusal('notFound', 'This cluster is not connected (any more).');
    const text = await this.connections.lastLines(
      id,
      { namespace, pod, container, previous: previous === 'yes' },
      LOG_LINES,
    );
    const lines = text.replace(/\n$/, '').split('\n').slice(-LOG_LINES);
    return { at: this.clock.now(), lines: lines.map((line) => line.slice(0, LOG_WIDTH)), previous: previous === 'yes' };
  }

  /** Every state of an object that is kept, and what changed from one to the next. */
  @Get('versions')
  async versions(
    @Query({ schema: ScopeQuery }) { in: path }: ScopeQuery,
    @Query({ schema: WindowQuery }) query: WindowQuery,
    @Seen() reach: Reach,
  ): Promise<VersionsAnswer> {
    const window = this.usage.window(query.from, query.to);
    const usage = await this.clusterOf(reach, path, window);
    const thing = findThing(usage, path, null, { at: window.to, zone: this.settings.config.zone });
    const own = thing?.object.uid ?? uidsOf(usage, path)?.[0];
    if (own === undefined) throw new Refusal('notFound', 'Versions are kept of single objects: choose one.');
    return versionLines(await this.inventory.versionsOf(usage.connectionId, own, MOST_VERSIONS + 1), MOST_VERSIONS);
  }

  /** Clusters where the same namespace, or the same workload in it, is there now. */
  private elsewhere(reach: Reach, cluster: string, [, namespace, workload, pod]: readonly string[]): string[] {
    if (namespace === undefined || namespace.includes(':') || pod !== undefined) return [];
    return this.connections.ids().flatMap((id) => {
      const name = this.connections.nameOf(id);
      if (name === cluster || !reach.reads(name, namespace)) return [];
      const inventory = this.inventory.cluster(id);
      const there =
        workload === undefined
          ? inventory.list('namespace').some((one) => one.name === namespace)
          : inventory.podsOf(namespace, workload).length > 0;
      return there ? [name] : [];
    });
  }
  private runningOutOf({ connectionId, sees }: SeenUsage, path: readonly string[]): SheetAnswer['runningOut'] {
    const lines = this.runningOut.linesOf(connectionId);
    return lines && inTime(lines.filter((line) => mayTell(line, sees) && concerns(line, path))).slice(0, MOST_TOLD);
  }
  private ownerOf(cluster: string, [, place, part]: readonly string[]): string | null {
    if (place === undefined || volumeOf(place) !== null) return null;
    const team = teamOf(place);
    if (team !== null) return this.owners.teams().find(({ key }) => key === team)?.name ?? null;
    if (nodeOf(place) === null) return this.owners.ownerOf(cluster, place, part)?.name ?? null;
    const pod = part === undefined ? null : readPodKey(part);
    return pod ? (this.owners.ownerOf(cluster, pod.namespace)?.name ?? null) : null;
  }

  private async eventsFor(
    reach: Reach,
    usage: SeenUsage,
    path: readonly string[],
    { from, to }: Window,
    known: string[] | null,
  ) {
    const namespace = path[1];
    if (nodeOf(namespace) !== null && path.length === 2 && !reach.whole(usage.name))
      return {
        events: [],
        eventsMissing: 'what a shared node says may speak of others; it is for those who may see the whole cluster.',
      };
    const uids = known ?? uidsOf(usage, path);
    const events =
      uids === null
        ? namespace === undefined
          ? []
          : await this.inventory.eventsIn(usage.connectionId, namespace, from, to)
        : await this.inventory.eventsAbout(usage.connectionId, uids, from, to);
    const state = this.connections.get(reach, usage.connectionId).kinds.find(({ kind }) => kind === 'event');
    return {
      events,
      eventsMissing: state && state.state !== 'watching' ? (state.reason ?? 'Events are not read yet.') : null,
    };
  }

  private async clusterOf(
    reach: Reach,
    path: readonly string[],
    window: { from: number; to: number; live: boolean },
  ): Promise<SeenUsage> {
    const [id] = path[0] === undefined ? [] : this.usage.idsIn(reach, { in: [...path] });
    if (id === undefined)
      throw new Refusal('notFound', 'This cluster is not connected. Choose another one in the scope line.');
    const [cluster = '', place, part] = path;
    if (place !== undefined && !place.includes(':')) demand(reach, 'read', cluster, place);
    const pod = nodeOf(place) === null || part === undefined ? null : readPodKey(part);
    if (pod) demand(reach, 'read', cluster, pod.namespace);
    return this.usage.seen(reach, id, window);
  }
}
