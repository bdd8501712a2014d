import { Controller, Get, Query } from '@nestjs/common';
import { AgainstQuery, type EndpointAnswer, type NowAnswer, ScopeQuery, WindowQuery } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { byWeight } from '@zetopsis/core/findings';
import { formatCount, formatDuration } from '@zetopsis/core/format';
import { RESOURCES } from '@zetopsis/core/units';
import { comparedOf } from '@zetopsis/core/usage';
import { Seen } from '../access/reached.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { DeliveryService } from '../delivery/delivery.service.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { LoopWatch } from '../platform/loopWatch.ts';
import { Unforeseen } from '../platform/unforeseen.ts';
import { AlertsService } from '../rules/alerts.service.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { SamplesService } from '../store/samples.service.ts';
import { ClusterColumns } from '../usage/columns.ts';
import { marksOf, touches } from '../usage/marks.ts';
import { nodeKey, teamOf as teamInPath } from '../usage/objectPaths.ts';
import { rowOf } from '../usage/rows.ts';
import { RunningOutService } from '../usage/runningOut.service.ts';
import { concerns, inTime, mayTell } from '../usage/runningOutLines.ts';
import { type SeenUsage, UsageService } from '../usage/usage.service.ts';

const MOST_FAILING = 50;
const MOST_TIGHT = 7;
const MOST_RUNNING_OUT = 7;

/** What needs somebody now, gathered from every capability. */
@Controller('api/now')
export class NowController {
  constructor(
    private readonly usage: UsageService,
    private readonly connections: ConnectionsService,
    private readonly endpoints: EndpointsService,
    private readonly alerts: AlertsService,
    private readonly owners: OwnersService,
    private readonly delivery: DeliveryService,
    private readonly samples: SamplesService,
    private readonly runningOut: RunningOutService,
    private readonly loop: LoopWatch,
    private readonly unforeseen: Unforeseen,
  ) {}

  @Get()
  async now(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) query: WindowQuery,
    @Query({ schema: AgainstQuery }) { shift }: AgainstQuery,
    @Seen() reach: Reach,
  ): Promise<NowAnswer> {
    const window = this.usage.window(query.from, query.to);
    const against = this.usage.against(window, shift);
    // a team's share of a cluster is chosen in Usage; here its cluster is looked at
    const path = teamInPath(scope.in[1]) === null ? scope.in : scope.in.slice(0, 1);
    const ids = this.usage.idsIn(reach, scope);
    const names = new Set(ids.map((id) => this.connections.nameOf(id)));
    const [clusters, open, within] = await Promise.all([
      Promise.all(ids.map((id) => this.usage.seen(reach, id, window))),
      // at a past moment, what was raised then
      window.live ? this.alerts.open(reach) : this.alerts.within(reach, window.to, window.to),
      this.alerts.within(reach, window.from, window.to),
    ]);
    const dead = await this.delivery.dead(reach.mayEverywhere('read') ? null : within.map(({ id }) => id));
    const teamOf = ([cluster = '', namespace, workload]: readonly string[]) =>
      namespace === undefined ? null : (this.owners.ownerOf(cluster, namespace, workload)?.name ?? null);

    const failing: NowAnswer['failing'] = [];
    const tightest: NowAnswer['tightest'] = [];
    for (const usage of clusters) {
      const other = against === null ? null : await this.usage.seen(reach, usage.connectionId, against);
      const columns = new ClusterColumns(usage, window.to);
      for (const finding of columns.own)
        if (path.length <= 1) failing.push({ path: [usage.name], team: null, finding, more: 0 });
      for (const [namespace, [finding]] of columns.asking) {
        const place = [usage.name, namespace];
        if (finding && touches(place, path)) failing.push({ path: place, team: teamOf(place), finding, more: 0 });
      }
      for (const { node, findings } of columns.nodes) {
        const [finding] = findings;
        const place = [usage.name, nodeKey(node.name)];
        if (finding && touches(place, path))
          failing.push({ path: place, team: null, finding, more: findings.length - 1 });
      }
      for (const { namespace, key, findings } of columns.bounds) {
        const [finding] = findings;
        const place = [usage.name, namespace, key];
        if (finding && touches(place, path))
          failing.push({ path: place, team: teamOf(place), finding, more: findings.length - 1 });
      }
      for (const { workload, key, findings, because } of columns.workloads) {
        // what a lost node explains stands in the node's line
        const [finding] = because !== null && path.length < 2 ? [] : findings;
        const place = [usage.name, workload.namespace ?? '', key];
        if (finding && touches(place, path))
          failing.push({ path: place, team: teamOf(place), finding, more: findings.length - 1 });
      }
      for (const namespace of usage.tree.children) {
        for (const workload of namespace.children) {
          const place = [usage.name, namespace.key, workload.key];
          if (!workload.present || !touches(place, path)) continue;
          for (const resource of RESOURCES) {
            if (workload.usage[resource].tightness === null) continue;
            const then = other?.tree.children
              .find(({ key }) => key === namespace.key)
              ?.children.find(({ key }) => key === workload.key);
            const compared = other === null ? undefined : then ? comparedOf(then) : null;
            tightest.push({
              path: place,
              team: teamOf(place),
              resource,
              row: rowOf(workload, { against: compared }),
            });
          }
        }
      }
    }
    failing.sort((a, b) =>
      byWeight(a.finding as Parameters<typeof byWeight>[0], b.finding as Parameters<typeof byWeight>[0]),
    ); // findings of core, typed by the contract
    tightest.sort((a, b) => (b.row.usage[b.resource].tightness ?? 0) - (a.row.usage[a.resource].tightness ?? 0));
    const endpoints = this.endpoints.list(reach).filter(({ state }) => state !== 'retired' && state !== 'paused');
    return {
      at: window.to,
      alerts: open.filter((alert) => touches(alert.path, path) && names.has(alert.path[0] ?? '')),
      failing: failing.slice(0, MOST_FAILING),
      tightest: tightest.slice(0, MOST_TIGHT),
      runningOut: window.live ? this.runningOutOf(clusters, path) : null,
      changed: clusters
        .flatMap((usage) => marksOf(usage, within, path, window.from, window.to))
        .filter(({ kind }) => kind !== 'raised' && kind !== 'cleared')
        .reverse()
        .slice(0, 12),
      blind: window.live ? this.blindSpots(reach, dead) : await this.blindThen(ids, window.to),
      connections: this.usage.idsIn(reach, { in: [] }).length,
      endpoints: { read: endpoints.filter(({ state }) => state === 'read').length, all: endpoints.length },
    };
  }

  private runningOutOf(clusters: readonly SeenUsage[], path: readonly string[]): NowAnswer['runningOut'] {
    const all = clusters.flatMap(({ connectionId, sees }) => {
      const lines = this.runningOut.linesOf(connectionId);
      return lines === null ? [] : [lines.filter((line) => mayTell(line, sees) && concerns(line, path))];
    });
    if (all.length === 0) return null;
    const lines = all.flat();
    const soon = inTime(lines.filter(({ outcome }) => outcome.is === 'date' || outcome.is === 'now'));
    return {
      lines: soon.slice(0, MOST_RUNNING_OUT).map((line) => ({
        ...line,
        team:
          line.path[1]?.includes(':') === false
            ? (this.owners.ownerOf(line.path[0]!, line.path[1], line.path[2])?.name ?? null)
            : null,
      })),
      later: lines.filter(({ outcome }) => outcome.is === 'later').length,
      unknown: lines.filter(({ outcome }) => outcome.is === 'unknown').length,
    };
  }
  /** What was not read at a past moment. */
  private async blindThen(ids: readonly string[], at: number): Promise<NowAnswer['blind']> {
    const byReason = new Map<string, { since: number; endpoints: number }>();
    for (const { from, to, reason } of await this.endpoints.gaps(ids, at, at)) {
      if (to !== null && to <= at) continue;
      const own = byReason.get(reason);
      byReason.set(reason, { since: Math.min(own?.since ?? from, from), endpoints: (own?.endpoints ?? 0) + 1 });
    }
    return [...byReason].map(([reason, { since, endpoints }]) => ({
      what: formatCount(endpoints, 'node page'),
      reason,
      since,
      nextStep: null,
    }));
  }
  private blindSpots(
    reach: Reach,
    dead: readonly { to: string; subject: string; createdAt: number; error: string | null }[],
  ): NowAnswer['blind'] {
    const spots: NowAnswer['blind'] = [];
    const blindClusters = new Set<string>();
    for (const connection of this.connections.list(reach)) {
      if (connection.state === 'reading' || connection.state === 'connecting') continue;
      if (connection.state === 'blind') blindClusters.add(connection.name);
      spots.push({
        what: connection.name,
        reason: connection.reason ?? connection.state,
        since: connection.since,
        nextStep: connection.nextStep,
      });
    }
    const byCause = new Map<string, EndpointAnswer[]>();
    for (const endpoint of this.endpoints.list(reach)) {
      if (endpoint.state !== 'failing' && endpoint.state !== 'late') continue;
      // one cause, one entry
      if (endpoint.connection !== null && blindClusters.has(endpoint.connection)) continue;
      const cause = `${endpoint.connection} ${endpoint.state} ${endpoint.lastError}`;
      const known = byCause.get(cause);
      if (known) known.push(endpoint);
      else byCause.set(cause, [endpoint]);
    }
    for (const [first, ...others] of byCause.values()) {
      const { connection, name, lastError, since } = first!; // each has one
      spots.push({
        what: `${connection === null ? '' : `${connection} › `}${name}${others.length === 0 ? '' : ` and ${others.length} more`}`,
        reason: lastError ?? 'its reading is late',
        since,
        nextStep: null,
      });
    }
    const { problem } = this.samples.status;
    if (problem !== null)
      spots.push({
        what: 'Zetopsis’ own store',
        reason: `PostgreSQL does not take readings: ${problem}`,
        since: Date.now(),
        nextStep: 'Readings wait in memory; see that PostgreSQL runs and has room.',
      });
    const { lately } = this.unforeseen;
    if (lately !== null)
      spots.push({
        what: 'Zetopsis itself',
        reason: `Something went wrong inside that nobody had foreseen (${formatCount(this.unforeseen.count, 'time')} since the start); the rest goes on.`,
        since: lately,
        nextStep: 'The server’s log says what, under “uncaught”. Report it with that line.',
      });
    const stop = this.loop.trouble;
    if (stop !== null)
      spots.push({
        what: 'Zetopsis itself',
        reason: `One thing held up everything else for ${formatDuration(stop.ms)}: answers, readings and rules waited.`,
        since: stop.at,
        nextStep: 'Look at what was asked then; fewer pods in a window or a smaller scope take less at once.',
      });
    for (const letter of dead)
      spots.push({
        what: `message to ${letter.to}`,
        reason: `“${letter.subject}” could not be delivered: ${letter.error ?? 'no reason known'}`,
        since: letter.createdAt,
        nextStep: 'Try it again under Rules.',
      });
    return spots;
  }
}
