import { Injectable } from '@nestjs/common';
import { ClusterColumns, columnsBelow, type OwnFlows, tableOf, tableRows, withFlows } from '@zetopsis/answers/columns';
import type { SeenUsage } from '@zetopsis/answers/usage';
import {
  type By,
  clusterOf,
  EVERYTHING,
  liesIn,
  type ObjectPath,
  type OtherQuery,
  type ScopeQuery,
  type TableAnswer,
  type TableQuery,
  type UsageAnswer,
  type UsageColumn,
  type WindowQuery,
  writePath,
} from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { formatCount } from '@zetopsis/core/format';
import { byTightness, type UsageNode } from '@zetopsis/core/usage';
import type { z } from 'zod';
import { inPieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { EndpointAnswersService } from '../../inflow/scraping/endpointAnswers.service.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { FlowsService } from './flows.service.ts';
import { HostsService } from './hosts.service.ts';
import { OtherUsageService } from './otherUsage.service.ts';
import { UsageService } from './usage.service.ts';

const MOST_TABLE_ROWS = 5000;

/** What is asked for of the drill columns. */
export interface ColumnsAsked {
  readonly scope: ScopeQuery;
  readonly window: WindowQuery;
  readonly shift: number | undefined;
  readonly by: By;
  readonly of: z.infer<typeof OtherQuery>['of'];
}

/** Figures are worked out when they are first looked at: of what the columns below a path show, in pieces. */
async function lookedAt(tree: UsageNode, path: ObjectPath): Promise<void> {
  const [, ...keys] = writePath(path);
  for (let node: UsageNode | undefined = tree, depth = 0; node; depth++) {
    await inPieces(node.children, (child) => void child.usage);
    const key = keys[depth];
    node = key === undefined ? undefined : node.children.find((child) => child.key === key);
  }
}

/** Columns of the drill path, and the same rows as one table. */
@Injectable()
export class ColumnsService {
  constructor(
    private readonly usage: UsageService,
    private readonly flows: FlowsService,
    private readonly hosts: HostsService,
    private readonly connections: ConnectionsService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly owners: OwnersService,
    private readonly others: OtherUsageService,
  ) {}

  /** Clusters, then the children of each part of the path. */
  async columns(reach: Reach, { scope, window: query, shift, by, of }: ColumnsAsked): Promise<UsageAnswer> {
    const window = this.usage.window(query.from, query.to);
    const against = this.usage.against(window, shift);
    const path = scope.in;
    const ids = this.usage.idsIn(reach, { ...scope, in: EVERYTHING });
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
        return {
          usage,
          columns: new ClusterColumns(usage, window.to, other, this.owners.ofCluster(usage.name), looked),
        };
      }),
    );
    const order = [...views].sort((a, b) => byTightness('cpu')(a.usage.tree, b.usage.tree));
    const rows = order.map(({ columns }) => columns.clusterRow());
    const nodes = rows.reduce((sum, { desired }) => sum + (desired ?? 0), 0);
    const readyNodes = rows.reduce((sum, { ready }) => sum + (ready ?? 0), 0);
    // what kind of cluster is looked at concerns no machine outside of all
    const hosts = scope.clusters === undefined ? await this.hosts.rows({ reach, window, against, other: of }) : [];
    const columns: UsageColumn[] = [
      {
        level: 'cluster',
        rows: [...rows, ...hosts],
        left: 0,
        summary: `${rows.length} connected${nodes === 0 && rows.length > 0 ? ', nodes not known at that time' : ` · ${formatCount(nodes, 'node')}, ${readyNodes} ready`}${hosts.length === 0 ? '' : ` · ${formatCount(hosts.length, 'host')} outside`}`,
      },
    ];
    const chosen = views.find(({ usage }) => usage.name === clusterOf(path));
    if (chosen) {
      await lookedAt(chosen.usage.tree, path);
      columns.push(...columnsBelow(chosen.columns, path, by));
    }
    return { window, path: writePath(path), against, of: of ?? null, columns, blind: this.blindWords(reach, path) };
  }

  /** All rows of one level below a path, with what the columns leave out. */
  async table({
    reach,
    scope,
    query,
    z: { level, find },
  }: {
    readonly reach: Reach;
    readonly scope: ScopeQuery;
    readonly query: WindowQuery;
    readonly z: z.infer<typeof TableQuery>;
  }): Promise<TableAnswer> {
    const window = this.usage.window(query.from, query.to);
    const path = scope.in;
    const answer: TableAnswer = { window, level, rows: [], left: 0 };
    for (const id of this.usage.idsIn(reach, scope)) {
      const usage = await this.usage.seen(reach, id, window);
      const columns = new ClusterColumns(usage, window.to, null, this.owners.ofCluster(usage.name));
      const { kept, left } = await yieldedInPieces(
        tableOf(tableRows({ usage, columns, level, path }), find, MOST_TABLE_ROWS - answer.rows.length),
      );
      const pods = new Set(kept.flatMap((placed) => placed.pods.flatMap(({ uid }) => uid ?? [])));
      const flows = await this.flows.ofPods(usage, pods);
      const own = level === 'cluster' || level === 'node' ? await this.ownFlows(usage) : null;
      await inPieces(kept, (placed) => answer.rows.push(withFlows(placed, flows, own)));
      answer.left += left;
    }
    return answer;
  }

  /** The same that columns show where one looks at these. */
  private async ownFlows(usage: SeenUsage): Promise<OwnFlows> {
    const [received, sent, files] = await Promise.all([
      this.others.figures(usage, 'received'),
      this.others.figures(usage, 'sent'),
      this.others.figures(usage, 'files'),
    ]);
    return { received, sent, files };
  }

  /** Of what was connected a moment ago only a part is known: its sums are too small until all of it was read. */
  private notReadYet(reach: Reach, shown: readonly { readonly name: string }[]): string[] {
    const nodes = this.endpointAnswers.list(reach).filter(({ kind }) => kind === 'node');
    return shown.flatMap(({ name }) => {
      const own = nodes.filter(({ connection }) => connection === name);
      const waiting = own.filter(({ state }) => state === 'waiting').length;
      return waiting === 0
        ? []
        : [
            `${waiting} of ${formatCount(own.length, 'node page')} of ${name} ${waiting === 1 ? 'was' : 'were'} not read yet: sums are of a part until then`,
          ];
    });
  }

  private blindWords(reach: Reach, path: ObjectPath): string[] {
    const shown = this.connections
      .list(reach)
      .filter(({ name }) => liesIn(path, { is: 'cluster', cluster: name }) || path.is === 'everything');
    const clusters = shown
      .filter(({ state }) => state === 'blind' || state === 'partly reading')
      .map(({ name, state, reason }) => `${name} is ${state}: ${reason ?? 'no reason known'}`);
    const failing = this.endpointAnswers
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
    return [...clusters, ...words, ...this.notReadYet(reach, shown)];
  }
}
