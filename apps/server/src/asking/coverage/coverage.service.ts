import { Injectable } from '@nestjs/common';
import type { CoverageAnswer, EndpointAnswer } from '@zetopsis/contract';
import { namesOf, type ObjectPath, writePath } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import {
  type CoverRow,
  coverLedger,
  coverOf,
  type PageState,
  pageChanges,
  type RunningContainer,
} from '@zetopsis/core/coverage';
import { hasEnded } from '@zetopsis/core/inventory';
import { DAY, MINUTE } from '@zetopsis/core/units';

import { inPieces } from '../../ground/platform/inPieces.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { EndpointAnswersService } from '../../inflow/scraping/endpointAnswers.service.ts';
import { HistoryService } from '../../inflow/scraping/history.service.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { AROUND, MOST_COUNTED, nameOf } from './endpointWords.ts';

/** What is looked for of every container. */
const WANTED = ['container.cpu.time', 'container.memory.working_set'] as const;
const MOST_ROWS = 300;

type Row = CoverageAnswer['rows'][number];

/** What should be read, and is or is not. */
@Injectable()
export class CoverageService {
  private metrics: { at: number; changes: Promise<{ came: string[]; went: string[] }> } = {
    at: 0,
    changes: Promise.resolve({ came: [], went: [] }),
  };

  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly history: HistoryService,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
    private readonly vitals: VitalsService,
    private readonly owners: OwnersService,
    private readonly clock: Clock,
  ) {}

  async coverage(reach: Reach, cluster: string | undefined, only: 'all' | 'unread'): Promise<CoverageAnswer> {
    const ids = this.connections
      .ids()
      .filter((id) => reach.touches(this.connections.nameOf(id)))
      .filter((id) => cluster === undefined || this.connections.nameOf(id) === cluster);
    const endpoints = this.endpointAnswers.list(reach).filter(({ state }) => state !== 'retired');
    const rows: Row[] = [];
    const byNamespace: CoverageAnswer['byNamespace'] = [];
    for (const id of ids) {
      const name = this.connections.nameOf(id);
      rows.push(...this.connectionRows(reach, name));
      const own = await this.ledger(id, endpoints);
      const unmapped = this.unmapped(id, name, endpoints);
      if (unmapped) rows.push(unmapped);
      for (const row of own.rows) {
        // one cause, one entry: without the vital there is no line of any container
        if (unmapped && row.of.kind === 'container') continue;
        const namespace = row.of.kind === 'container' ? row.of.namespace : null;
        if (namespace !== null && !reach.reads(name, namespace)) continue;
        rows.push(answerOf(name, row));
      }
      for (const [namespace, counts] of own.byNamespace) {
        if (!reach.reads(name, namespace)) continue;
        const team = this.owners.ownerOf(name, namespace);
        byNamespace.push({ cluster: name, namespace, team: team?.name ?? null, ...counts });
      }
    }
    const others = endpoints.filter(
      ({ kind, connection }) => kind !== 'node' && (cluster === undefined || connection === cluster),
    );
    rows.push(...folded(others.filter(({ state }) => state !== 'read' && state !== 'waiting').map(endpointRow)));
    if (only === 'all')
      rows.push(...others.filter(({ state }) => state === 'read' || state === 'waiting').map(endpointRow));
    const total = byNamespace.reduce(
      (sum, { containers, read }) => ({ containers: sum.containers + containers, read: sum.read + read }),
      { containers: 0, read: 0 },
    );
    return {
      at: this.clock.now(),
      share: total,
      byNamespace: byNamespace.sort(
        (a, b) =>
          a.read / a.containers - b.read / b.containers ||
          a.cluster.localeCompare(b.cluster) ||
          a.namespace.localeCompare(b.namespace),
      ),
      rows: rows.slice(0, MOST_ROWS),
      inAll: rows.length,
      changes: await this.changes(
        endpoints,
        ids.every((id) => reach.whole(this.connections.nameOf(id))),
      ),
    };
  }

  private connectionRows(reach: Reach, name: string): Row[] {
    return this.connections
      .list(reach)
      .filter((one) => one.name === name && (one.state === 'blind' || one.state === 'partly reading'))
      .map((one) => ({
        kind: 'cluster' as const,
        path: [name],
        name,
        state: one.lastContactAt === null ? ('never' as const) : ('unread' as const),
        since: one.since,
        reason: one.reason ?? 'no reason known',
        nextStep: one.nextStep ?? 'Look at its connection.',
        step: { does: 'connection' as const, to: one.id },
      }));
  }
  /** Vitals that pages which are read do not have: they have other names there. */
  private unmapped(id: string, name: string, endpoints: readonly EndpointAnswer[]): Row | null {
    const read = endpoints.filter((one) => one.kind === 'node' && one.connection === name && one.state === 'read');
    if (read.length === 0) return null;
    const missing = this.vitals.missing(id, WANTED);
    if (missing.length === 0) return null;
    return {
      kind: 'cluster',
      path: [name],
      name,
      state: 'never',
      since: Math.min(...read.map(({ since }) => since)),
      reason: `Its nodes’ pages are read, but nothing in them is called as ${missing.join(' and ')} ${missing.length === 1 ? 'is' : 'are'} here.`,
      nextStep: 'Map its vitals: a mapping is proposed from what it serves.',
      step: { does: 'vitals', to: name },
    };
  }
  private async ledger(connectionId: string, endpoints: readonly EndpointAnswer[]) {
    const name = this.connections.nameOf(connectionId);
    const pages = new Map<string, PageState>(
      endpoints
        .filter(({ kind, connection }) => kind === 'node' && connection === name)
        .map((endpoint) => [endpoint.name, { ...endpoint, error: endpoint.lastError }]),
    );
    const cluster = this.inventory.cluster(connectionId);
    const vitals = await this.vitalsByContainer(connectionId);
    const containers: RunningContainer[] = [];
    await inPieces(cluster.list('pod'), (pod) => {
      if (pod.phase !== 'running' || hasEnded(pod) || pod.deletingSince !== null) return;
      for (const container of pod.containers) {
        if (container.state.is !== 'running') continue;
        const seen = vitals.get(`${pod.uid}/${container.name}`);
        containers.push({
          namespace: pod.namespace ?? '',
          workload: cluster.workloadOf(pod),
          pod: pod.name,
          container: container.name,
          node: pod.node,
          since: container.state.since,
          ever: seen?.ever ?? 0,
          now: seen?.now ?? 0,
        });
      }
    });
    return coverLedger({
      now: this.clock.now(),
      intervalMs: this.connections.intervalOf(connectionId),
      vitals: WANTED.length,
      pageOf: (node) => pages.get(node) ?? null,
      nodes: cluster.list('node').map((node) => ({ name: node.name, since: node.createdAt })),
      containers,
    });
  }
  /** How many of the vitals of each container are known, and stand in the newest reading. */
  private async vitalsByContainer(connectionId: string): Promise<Map<string, { ever: number; now: number }>> {
    const found = new Map<string, { ever: number; now: number }>();
    for (const vital of WANTED)
      await inPieces(this.vitals.select(connectionId, vital), (id) => {
        const container = this.vitals.label({ connectionId, vital, id, role: 'container' });
        const key = `${this.vitals.podUid(connectionId, vital, id)}/${container}`;
        const own = found.get(key) ?? { ever: 0, now: 0 };
        own.ever++;
        if (this.samples.standsNow(id)) own.now++;
        found.set(key, own);
      });
    return found;
  }

  /** What is far from what it was a day ago. */
  private async changes(endpoints: readonly EndpointAnswer[], whole: boolean): Promise<CoverageAnswer['changes']> {
    const before = await this.history.around(this.clock.now() - DAY, AROUND);
    const pages = endpoints.flatMap((endpoint) => {
      const then = before.get(endpoint.id);
      if (!then || endpoint.state !== 'read') return [];
      const now = { ...endpoint, series: this.numbers.table.countOf(endpoint.id) };
      return pageChanges(then, now).map((text) => ({ endpointId: endpoint.id, what: nameOf(endpoint), text }));
    });
    return before.size === 0 || !whole ? pages : [...pages, ...(await this.metricChanges())];
  }
  /** Metrics that came or went within a day; asked for once a minute. */
  private async metricChanges(): Promise<CoverageAnswer['changes']> {
    const now = this.clock.now();
    if (now - this.metrics.at > MINUTE)
      this.metrics = { at: now, changes: this.numbers.metricsChangedSince(now - DAY, MOST_COUNTED) };
    const { came, went } = await this.metrics.changes;
    const line = (text: string) => (metric: string) => ({ endpointId: null, what: metric, text });
    return [...came.map(line('it is new since yesterday')), ...went.map(line('it came no more'))];
  }
}

const pathOf = (cluster: string, of: CoverRow['of']): ObjectPath =>
  of.kind === 'node' ? { is: 'node', cluster, node: of.node } : { is: 'container', cluster, ...of, node: null };
const answerOf = (cluster: string, row: CoverRow): Row => ({
  kind: row.of.kind,
  path: writePath(pathOf(cluster, row.of)),
  name: namesOf(pathOf(cluster, row.of)).slice(1).join(' › '),
  state: row.state,
  since: row.since === null ? null : Math.round(row.since),
  reason: row.reason,
  nextStep: row.nextStep,
  step: row.endpoint === null ? null : { does: 'endpoint', to: String(row.endpoint) },
});
/** One cause, one entry: pages that a cluster has many of, and that are not read for the same reason. */
function folded(rows: readonly Row[]): Row[] {
  const groups = new Map<string, { row: Row; more: number }>();
  for (const row of rows) {
    const key = `${row.path[0] ?? row.name} ${row.state} ${row.reason}`;
    const known = groups.get(key);
    if (known) known.more++;
    else groups.set(key, { row, more: 0 });
  }
  return [...groups.values()].map(({ row, more }) =>
    more === 0 ? row : { ...row, name: `${row.name} and ${more} more` },
  );
}
function endpointRow(endpoint: EndpointAnswer): Row {
  const state = coverOf({ ...endpoint, error: endpoint.lastError });
  return {
    kind: 'endpoint',
    path: endpoint.connection === null ? [] : [endpoint.connection],
    name: endpoint.name,
    state: endpoint.state === 'waiting' ? 'late' : state,
    since: endpoint.lastReadingAt ?? endpoint.since,
    reason:
      endpoint.state === 'read'
        ? 'read as it should be'
        : endpoint.state === 'paused'
          ? 'Somebody paused it; the gap is marked as planned.'
          : (endpoint.lastError ??
            (endpoint.state === 'waiting' ? 'Its first reading is due.' : 'Its reading is overdue.')),
    nextStep:
      endpoint.state === 'paused'
        ? 'Resume it.'
        : endpoint.state === 'read'
          ? ''
          : 'Look at it, and mend what the reason names.',
    step: { does: 'endpoint', to: String(endpoint.id) },
  };
}
