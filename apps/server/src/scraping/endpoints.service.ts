import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { EndpointAnswer, RawPage } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { DEFAULT_PAGE_LIMITS, PageMemory } from '@zetopsis/core/exposition';
import { stalenessOf } from '@zetopsis/core/usage';
import type { Agent } from 'undici';
import { demand } from '../access/demand.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { InventoryService } from '../inventory/inventory.service.ts';
import { LiveService } from '../live/live.service.ts';
import { AddressGuard } from '../platform/addressGuard.ts';
import { ServerLog } from '../platform/logger.ts';
import { Refusal } from '../platform/refusals.ts';
import { Clock } from '../platform/settings.ts';
import { type Acceptance, SamplesService } from '../store/samples.service.ts';
import { type Refused, SeriesNumbers } from '../store/seriesNumbers.ts';
import { EndpointStore, type GapRow } from './endpoint.store.ts';
import { type EndpointPlan, EndpointReader } from './endpointReader.ts';
import { type FetchResult, fetchPage } from './fetchPage.ts';

const MEBIBYTE = 1024 * 1024;
/** The endpoints found from the inventory and their readers. */
@Injectable()
export class EndpointsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly readers = new Map<number, EndpointReader>();
  private readonly retired = new Map<number, EndpointReader['status'] & { plan: EndpointPlan }>();
  private readonly agents = new Map<string, { key: string; agent: Agent }>();
  private newest = new Map<number, number>();
  private readonly connectionOfEndpoint = new Map<number, string>();
  private reviewing: Promise<void> = Promise.resolve();
  /** Set by the administrators. */
  pageMegabytes = DEFAULT_PAGE_LIMITS.pageBytes / MEBIBYTE;

  constructor(
    private readonly store: EndpointStore,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
    private readonly guard: AddressGuard,
    private readonly clock: Clock,
    private readonly live: LiveService,
    private readonly log: ServerLog,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    this.newest = await this.store.newestReadings();
    for (const { id, connectionId } of await this.store.all()) this.connectionOfEndpoint.set(id, connectionId);
    this.inventory.onChange((connectionId, kind) => kind === 'node' && this.review(connectionId));
    this.connections.onChange((connectionId) => this.review(connectionId, true));
    for (const id of this.connections.ids()) this.review(id);
  }
  async onApplicationShutdown(): Promise<void> {
    for (const reader of this.readers.values()) reader.stop();
    await Promise.all([...this.agents.values()].map(({ agent }) => agent.destroy()));
  }

  /** Whose an endpoint is, also one that is read no more. */
  connectionOf(endpointId: number): string | undefined {
    return this.connectionOfEndpoint.get(endpointId);
  }

  private review(connectionId: string, afresh = false): void {
    this.reviewing = this.reviewing
      .then(() => this.match(connectionId, afresh))
      .catch((error) => this.log.failure('endpointsNotReviewed', error));
  }

  /** Makes the readers of a connection's nodes equal to what the inventory says. */
  private async match(connectionId: string, afresh: boolean): Promise<void> {
    const access = this.connections.access(connectionId);
    const own = [...this.readers.values()].filter(({ plan }) => plan.connectionId === connectionId);
    if (!access) {
      for (const reader of own) this.drop(reader);
      const gone = [
        ...own.map(({ plan }) => plan.id),
        ...[...this.retired.values()]
          .filter(({ plan }) => plan.connectionId === connectionId)
          .map(({ plan }) => plan.id),
      ];
      for (const id of gone) this.retired.delete(id);
      await this.samples.forget(gone);
      await this.agents.get(connectionId)?.agent.destroy();
      this.agents.delete(connectionId);
      return;
    }
    const nodes = this.inventory.cluster(connectionId).list('node');
    const wanted = new Map(
      nodes
        .filter(({ address, port }) => address !== null && port !== null)
        .map((node) => [node.name, `https://${node.address}:${node.port}${access.pagePath}`]),
    );
    for (const reader of own) {
      const url = wanted.get(reader.plan.node);
      if (url === undefined) {
        this.drop(reader);
        this.retired.set(reader.plan.id, {
          ...reader.status,
          state: 'retired',
          since: this.clock.now(),
          plan: reader.plan,
        });
        await this.store.retire(reader.plan.id, new Date(this.clock.now()));
      } else if (afresh || url !== reader.plan.url.href) this.drop(reader);
      else wanted.delete(reader.plan.node);
    }
    for (const [node, url] of wanted) {
      const id = await this.store.use(connectionId, node);
      this.connectionOfEndpoint.set(id, connectionId);
      this.retired.delete(id);
      const plan: EndpointPlan = { id, connectionId, node, url: new URL(url), intervalMs: access.intervalMs };
      const reader = new EndpointReader(
        plan,
        this.clock,
        (own_, timeout) => this.fetch(own_, timeout),
        (own_, at, result) => this.took(own_, at, result),
        this.newest.get(id) ?? null,
      );
      this.readers.set(id, reader);
      reader.start();
    }
    this.live.touch('sources');
  }
  private drop(reader: EndpointReader): void {
    reader.stop();
    this.readers.delete(reader.plan.id);
    if (reader.status.lastReadingAt !== null) this.newest.set(reader.plan.id, reader.status.lastReadingAt);
  }

  private agentFor(connectionId: string, authority: string): Agent {
    const known = this.agents.get(connectionId);
    if (known?.key === authority) return known.agent;
    void known?.agent.destroy();
    const agent = this.guard.agent(authority);
    this.agents.set(connectionId, { key: authority, agent });
    return agent;
  }

  private async fetch(plan: EndpointPlan, timeoutMs: number): Promise<FetchResult> {
    const access = this.connections.access(plan.connectionId);
    if (!access) return { ok: false, reason: 'The connection was removed.', durationMs: 0 };
    const reader = this.readers.get(plan.id);
    return fetchPage(
      plan.url,
      access.token,
      this.agentFor(plan.connectionId, access.authority),
      this.guard,
      timeoutMs,
      reader?.memory ?? new PageMemory(),
      { ...DEFAULT_PAGE_LIMITS, pageBytes: this.pageMegabytes * MEBIBYTE },
    );
  }

  /** Resolves when the endpoint may be read again: it is, while what was read waits to be stored. */
  private async took(plan: EndpointPlan, at: number, result: FetchResult): Promise<void> {
    const reader = this.readers.get(plan.id);
    if (!reader) return;
    try {
      if (!result.ok) {
        await this.store.openGap(plan.id, reader.status.lastReadingAt ?? at, result.reason);
        this.live.touch('sources');
        return;
      }
      const { page, durationMs } = result.fetched;
      const reading = { endpointId: plan.id, at, readAt: at, durationMs, page, memory: reader.memory };
      const { stored } = await this.samples.begin(reading);
      void stored
        .then((taken) => this.settle(reader, at, taken))
        .catch((error: unknown) => this.notStored(reader, at, error));
    } catch (error) {
      this.notStored(reader, at, error);
    }
  }
  private async settle(reader: EndpointReader, at: number, taken: Acceptance): Promise<void> {
    const { plan, status } = reader;
    if (taken.kind === 'notOurs') {
      this.notTaken(reader, at, `Another process of Zetopsis (${this.samples.status.heldBy}) reads the endpoints.`);
      return;
    }
    if (taken.kind === 'givenUp') {
      const reason = 'PostgreSQL was away for longer than Zetopsis could keep readings waiting.';
      await this.store.openGap(plan.id, status.lastReadingAt ?? at, reason);
      return;
    }
    // at once: readings that waited are told of one after the other, before any of them has its gap looked at
    const before = status.lastReadingAt;
    status.lastReadingAt = Math.max(at, before ?? 0);
    if (before !== null && at - before > stalenessOf(plan.intervalMs)) {
      // a gap that has a reason already keeps it
      await this.store.openGap(plan.id, before, 'Nothing was read: Zetopsis was not running, or too busy.');
    }
    await this.store.closeGap(plan.id, at);
  }
  private notStored(reader: EndpointReader, at: number, error: unknown): void {
    this.notTaken(
      reader,
      at,
      'The reading could not be stored; the server’s log says why. It is tried again at the next reading.',
    );
    this.log.failure('readingNotStored', error, { endpoint: reader.plan.id });
  }
  private notTaken(reader: EndpointReader, at: number, why: string): void {
    reader.status.state = 'failing';
    reader.status.error = why;
    reader.status.errorAt = at;
    this.live.touch('sources');
  }

  // ---- history ----------------------------------------------------------------------------------------------------

  private readonly importing = new Set<string>();

  /** While a past is being imported, nothing is judged that it may still change. */
  async whileImporting<T>(connectionId: string, work: () => Promise<T>): Promise<T> {
    this.importing.add(connectionId);
    try {
      return await work();
    } finally {
      this.importing.delete(connectionId);
    }
  }
  /** Every endpoint of the connection has been tried once, and no import is under way. */
  settled(connectionId: string): boolean {
    const own = [...this.readers.values()].filter(({ plan }) => plan.connectionId === connectionId);
    return own.length > 0 && own.every(({ status }) => status.state !== 'waiting') && !this.importing.has(connectionId);
  }

  /** Endpoints of a connection that are in use now. */
  plansOf(connectionId: string): EndpointPlan[] {
    return [...this.readers.values()].map(({ plan }) => plan).filter((plan) => plan.connectionId === connectionId);
  }

  /** Notes that an endpoint's past has been read up to a moment: it is not asked for again. */
  async historyRead(endpointId: number, before: number): Promise<void> {
    await this.store.historyRead(endpointId, before);
  }
  async historyWanted(endpointId: number): Promise<boolean> {
    return (await this.store.all()).find(({ id }) => id === endpointId)?.historyUntil === null;
  }

  // ---- what can be seen -------------------------------------------------------------------------------------------

  list(reach: Reach): EndpointAnswer[] {
    const now = this.clock.now();
    const answer = (plan: EndpointPlan, status: EndpointReader['status']): EndpointAnswer => {
      const newestAt = status.lastReadingAt;
      const overdue = status.state === 'read' && newestAt !== null && now - newestAt > stalenessOf(plan.intervalMs);
      return {
        id: plan.id,
        connection: this.connections.nameOf(plan.connectionId),
        node: plan.node,
        address: plan.url.href,
        intervalSeconds: plan.intervalMs / 1000,
        state: overdue ? 'late' : status.state,
        since: Math.round(status.since),
        lastReadingAt: newestAt,
        samples: status.last?.page.values.length ?? null,
        bytes: status.last?.page.bytes ?? null,
        durationMs: status.last === null ? null : Math.round(status.last.durationMs * 10) / 10,
        problems: status.last?.page.problemCount ?? 0,
        cut: cutInWords(this.numbers.refused(plan.id)),
        lastError: status.error,
        lastErrorAt: status.errorAt,
        nextDueAt: status.nextDueAt,
      };
    };
    return [
      ...[...this.readers.values()].map(({ plan, status }) => answer(plan, status)),
      ...[...this.retired.values()].map((status) => answer(status.plan, status)),
    ]
      .filter(({ connection }) => reach.touches(connection))
      .sort((a, b) => a.connection.localeCompare(b.connection) || a.node.localeCompare(b.node));
  }

  /** A node's page speaks of every pod on it: it is for those who may see the whole cluster. */
  rawPage(reach: Reach, id: number): RawPage {
    const reader = this.readers.get(id);
    const cluster = reader && this.connections.nameOf(reader.plan.connectionId);
    if (cluster !== undefined && reach.touches(cluster)) demand(reach, 'read', cluster, null);
    const status = cluster !== undefined && reach.touches(cluster) ? reader?.status : undefined;
    if (!status) throw new Refusal('notFound', 'This endpoint is not read (any more).');
    if (!status.last || status.lastAt === null)
      throw new Refusal(
        'notFound',
        'No page has been read from this endpoint yet. The next reading is due within its interval.',
      );
    const { page, raw, contentType } = status.last;
    return {
      readAt: status.lastAt,
      contentType,
      bytes: page.bytes,
      text: raw.toString('utf8'),
      cut: page.bytes > raw.length,
      families: [...page.families.values()].map(({ name, type, unit, samples }) => ({ name, type, unit, samples })),
      problems: [...page.problems],
      problemCount: page.problemCount,
    };
  }

  /** Stretches in which all endpoints of these connections were unread at once are gaps of the whole. */
  async gaps(connectionIds: readonly string[], from: number, to: number): Promise<GapRow[]> {
    const ids = [...this.readers.values()]
      .filter(({ plan }) => connectionIds.includes(plan.connectionId))
      .map(({ plan }) => plan.id);
    return this.store.gaps(ids, from, to);
  }
  newestReading(connectionIds: readonly string[]): number | null {
    const times = [...this.readers.values()]
      .filter(({ plan }) => connectionIds.includes(plan.connectionId))
      .map(({ status }) => status.lastReadingAt ?? 0);
    const newest = Math.max(0, ...times);
    return newest === 0 ? null : newest;
  }
}

const LIMITED = {
  perEndpoint: 'this endpoint has as many as one may',
  perTeam: 'a team whose they are has as many as one may',
  inAll: 'Zetopsis has as many as it may in all',
} as const;
/** What of an endpoint is not kept, and what to do. */
function cutInWords(refused: Refused | null): string | null {
  const [first] = Object.entries(refused ?? {}) as [keyof typeof LIMITED, number][]; // keys of a Refused
  if (!first) return null;
  return `${first[1]} of its series are not kept: ${LIMITED[first[0]]}. Drop some at the endpoint, or raise the limit (Admin, Retention and limits).`;
}
