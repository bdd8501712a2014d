import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { EndpointAnswer, RawPage } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { DEFAULT_PAGE_LIMITS, type PageLimits, PageMemory } from '@zetopsis/core/exposition';
import { PLAIN } from '@zetopsis/core/scouting';
import { stalenessOf } from '@zetopsis/core/usage';
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
import { type Ask, AskingService } from './asking.service.ts';
import { EndpointStore, type GapRow } from './endpoint.store.ts';
import { EndpointReader, type EndpointStatus, freshStatus, noteResult, type Reads } from './endpointReader.ts';
import { type FetchResult, fetchPage } from './fetchPage.ts';
import { Gaps } from './gaps.ts';
import { HistoryService } from './history.service.ts';
import { type EndpointPlan, type PlanDraft, printOf } from './plans.ts';
import { PushedSender } from './pushedSender.ts';

const MEBIBYTE = 1024 * 1024;

/** Answers up to now wait for a slow endpoint no longer than this. */
const SETTLES_WITHIN = 2000;

/** An endpoint that is known and not read: somebody wanted it so, or what it was of is gone. */
interface Idle {
  readonly plan: EndpointPlan;
  readonly status: EndpointStatus;
}

/** All endpoints and their readers. What there is to be read is told by those who find it, scope by scope. */
@Injectable()
export class EndpointsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly readers = new Map<number, Reads>();
  private readonly idle = new Map<number, Idle>();
  private newest = new Map<number, number>();
  private readonly connectionOfEndpoint = new Map<number, string>();
  private reviewing: Promise<void> = Promise.resolve();
  private known: Promise<void> | null = null;
  /** Set by the administrators. */
  pageMegabytes = DEFAULT_PAGE_LIMITS.pageBytes / MEBIBYTE;

  private readonly unread: Gaps;

  constructor(
    private readonly store: EndpointStore,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
    private readonly asking: AskingService,
    private readonly history: HistoryService,
    private readonly guard: AddressGuard,
    private readonly clock: Clock,
    private readonly live: LiveService,
    private readonly log: ServerLog,
  ) {
    this.unread = new Gaps(store, (endpoint, error) => log.failure('gapNotKept', error, { endpoint }));
  }

  async onApplicationBootstrap(): Promise<void> {
    await this.load();
    this.inventory.onChange((connectionId, kind) => kind === 'node' && this.reviewNodes(connectionId));
    this.connections.onChange((connectionId) => this.reviewNodes(connectionId, true));
    for (const id of this.connections.ids()) this.reviewNodes(id);
  }
  onApplicationShutdown(): void {
    for (const reader of this.readers.values()) reader.stop();
  }
  private load(): Promise<void> {
    this.known ??= (async () => {
      this.newest = await this.store.newestReadings();
      for (const { id, connectionId } of await this.store.all())
        if (connectionId !== null) this.connectionOfEndpoint.set(id, connectionId);
    })();
    return this.known;
  }

  /** Whose an endpoint is, also one that is read no more. */
  connectionOf(endpointId: number): string | undefined {
    return this.connectionOfEndpoint.get(endpointId);
  }

  /**
   * Up to here every reading that was due has come: who is answered up to now is answered the same later. An endpoint that
   * is slow holds this up for two seconds at most.
   */
  settledUntil(now: number): number {
    let settled = Math.min(now, (this.samples.oldestNotKept ?? now + 1) - 1);
    for (const reader of this.readers.values()) {
      const awaited = reader.awaited(now);
      if (awaited !== null) settled = Math.min(settled, awaited - 1);
    }
    return Math.max(settled, now - SETTLES_WITHIN);
  }
  /** How often an endpoint is read, or was before it went, ms; undefined where that is not known any more. */
  intervalOf(endpointId: number): number | undefined {
    return (this.readers.get(endpointId) ?? this.idle.get(endpointId))?.plan.intervalMs;
  }

  // ---- what is to be read -----------------------------------------------------------------------------------------

  private reviewNodes(connectionId: string, afresh = false): void {
    const access = this.connections.access(connectionId);
    if (!access) {
      void this.inTurn(() => this.forgetConnection(connectionId));
      return;
    }
    const drafts = this.inventory
      .cluster(connectionId)
      .list('node')
      .filter(({ address, port }) => address !== null && port !== null)
      .map(
        (node): PlanDraft => ({
          kind: 'node',
          connectionId,
          name: node.name,
          namespace: null,
          scout: null,
          url: new URL(`https://${node.address}:${node.port}${access.pagePath}`),
          through: null,
          proof: { by: 'cluster' },
          authority: '',
          intervalMs: access.intervalMs,
          timeoutMs: null,
          dress: PLAIN,
          use: 'read',
          as: null,
        }),
      );
    void this.match(
      ({ plan }) => plan.kind === 'node' && plan.connectionId === connectionId,
      drafts,
      // a changed token reads differently at the same address
      afresh,
    );
  }

  /**
   * Makes the readers of a scope equal to what there is to be read: what is new is read, what changed is read the new
   * way, what is gone is retired with its history kept. Done once what was asked before is.
   */
  match(scope: (own: { plan: EndpointPlan }) => boolean, drafts: readonly PlanDraft[], afresh = false): Promise<void> {
    return this.inTurn(() => this.reconcile(scope, drafts, afresh));
  }
  private inTurn(work: () => Promise<void>): Promise<void> {
    this.reviewing = this.reviewing
      .then(work)
      .catch((error: unknown) => this.log.failure('endpointsNotReviewed', error));
    return this.reviewing;
  }
  private async forgetConnection(connectionId: string): Promise<void> {
    const ofIt = ({ plan }: { plan: EndpointPlan }) => plan.connectionId === connectionId;
    for (const reader of [...this.readers.values()].filter(ofIt)) this.drop(reader);
    const gone = [...this.connectionOfEndpoint].filter(([, id]) => id === connectionId).map(([id]) => id);
    for (const id of gone) {
      this.unread.forget(id);
      this.idle.delete(id);
      this.connectionOfEndpoint.delete(id);
    }
    await this.samples.forget(gone);
  }

  private async reconcile(
    scope: (own: { plan: EndpointPlan }) => boolean,
    drafts: readonly PlanDraft[],
    afresh: boolean,
  ): Promise<void> {
    await this.load();
    const wanted = new Map(drafts.map((draft) => [draft.name, draft]));
    for (const reader of [...this.readers.values()].filter(scope)) {
      const draft = wanted.get(reader.plan.name);
      if (draft === undefined) await this.retire(reader.plan, reader.status);
      else if (!afresh && printOf(draft) === reader.print) wanted.delete(reader.plan.name);
      else this.drop(reader);
    }
    for (const own of [...this.idle.values()].filter(scope)) {
      if (own.status.state !== 'retired' && !wanted.has(own.plan.name)) await this.retire(own.plan, own.status);
    }
    for (const draft of wanted.values()) await this.begin(draft);
    this.live.touch('sources');
  }
  private async begin(draft: PlanDraft): Promise<void> {
    const id = await this.store.use(draft);
    const plan: EndpointPlan = { id, ...draft };
    if (plan.connectionId !== null) this.connectionOfEndpoint.set(id, plan.connectionId);
    this.numbers.dress(id, plan.dress);
    const before = this.idle.get(id)?.status;
    this.idle.delete(id);
    if (plan.use === 'read' && plan.as === null) {
      const newest = this.newest.get(id) ?? null;
      const reader =
        plan.kind === 'pushed'
          ? new PushedSender(plan, this.clock, newest)
          : new EndpointReader(
              plan,
              this.clock,
              (own, timeout) => this.fetch(own, timeout),
              (own, at, result) => this.took(own, at, result),
              newest,
            );
      this.readers.set(id, reader);
      reader.start();
      return;
    }
    const now = this.clock.now();
    const status = { ...(before ?? freshStatus(now, this.newest.get(id) ?? null)), nextDueAt: null };
    if (plan.as !== null) {
      const error = `Its page is no metrics page but wants the translator ${plan.as}, and there is none of that name.`;
      this.idle.set(id, { plan, status: { ...status, state: 'failing', error, errorAt: now } });
      return;
    }
    const state = plan.use === 'paused' ? 'paused' : 'retired';
    this.idle.set(id, { plan, status: { ...status, state, since: before?.state === state ? before.since : now } });
    await this.store.openGap(id, status.lastReadingAt ?? now, state === 'paused' ? 'Paused.' : 'Retired.', true);
    if (state === 'retired') await this.store.retire(id, new Date(now));
  }
  private async retire(plan: EndpointPlan, status: EndpointStatus): Promise<void> {
    const reader = this.readers.get(plan.id);
    if (reader) this.drop(reader);
    const now = this.clock.now();
    this.idle.set(plan.id, { plan, status: { ...status, state: 'retired', since: now, nextDueAt: null } });
    await this.store.retire(plan.id, new Date(now));
  }
  private drop(reader: Reads): void {
    reader.stop();
    this.readers.delete(reader.plan.id);
    if (reader.status.lastReadingAt !== null) this.newest.set(reader.plan.id, reader.status.lastReadingAt);
  }

  /** Zetopsis' own page needs no way to it. */
  ownPage: ((memory: PageMemory) => Promise<FetchResult>) | null = null;

  private async fetch(plan: EndpointPlan, timeoutMs: number): Promise<FetchResult> {
    const reader = this.readers.get(plan.id);
    const memory = reader?.memory ?? new PageMemory();
    if (plan.kind === 'own')
      return this.ownPage?.(memory) ?? { ok: false, reason: 'Zetopsis is ending.', durationMs: 0 };
    let ask: Ask;
    try {
      ask = this.asking.ask(plan);
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error);
      return { ok: false, reason, durationMs: 0 };
    }
    return fetchPage(ask, this.guard, timeoutMs, memory, this.pageLimits);
  }
  get pageLimits(): PageLimits {
    return { ...DEFAULT_PAGE_LIMITS, pageBytes: this.pageMegabytes * MEBIBYTE };
  }

  /** Takes what a sender pushed; `read` makes a page of it. Null when the sender is not known (any more). */
  async push(
    name: string,
    at: number,
    read: (memory: PageMemory) => Promise<FetchResult>,
  ): Promise<{ result: FetchResult; taken: Acceptance | null } | null> {
    const reader = [...this.readers.values()].find(({ plan }) => plan.kind === 'pushed' && plan.name === name);
    if (!reader) return null;
    const result = await read(reader.memory);
    noteResult(reader.status, result, this.clock.now());
    return new Promise((done) => void this.took(reader.plan, at, result, (taken) => done({ result, taken })));
  }

  /**
   * Resolves when the endpoint may be read again: it is, while what was read waits to be stored. What becomes of it is
   * told then; null: nothing.
   */
  private async took(
    plan: EndpointPlan,
    at: number,
    result: FetchResult,
    tell: (taken: Acceptance | null) => void = () => undefined,
  ): Promise<void> {
    const reader = this.readers.get(plan.id);
    if (!reader) return tell(null);
    this.history.note(plan.id, result, this.numbers.table.countOf(plan.id));
    try {
      if (!result.ok) {
        await this.unread.open(plan.id, reader.status.lastReadingAt ?? at, result.reason);
        this.live.touch('sources');
        return tell(null);
      }
      const { page, durationMs } = result.fetched;
      const reading = { endpointId: plan.id, at, readAt: at, durationMs, page, memory: reader.memory };
      const { stored } = await this.samples.begin(reading);
      void stored
        .then(async (taken) => {
          tell(taken);
          await this.settle(reader, at, taken);
        })
        .catch((error: unknown) => {
          tell(null);
          this.notStored(reader, at, error);
        });
    } catch (error) {
      tell(null);
      this.notStored(reader, at, error);
    }
  }
  private async settle(reader: Reads, at: number, taken: Acceptance): Promise<void> {
    const { plan, status } = reader;
    if (taken.kind === 'notOurs') {
      this.notTaken(reader, at, `Another process of Zetopsis (${this.samples.status.heldBy}) reads the endpoints.`);
      return;
    }
    if (taken.kind === 'givenUp') {
      await this.unread.givenUp(plan.id, status.lastReadingAt ?? at, taken.why);
      return;
    }
    // at once: readings that waited are told of one after the other, before any of them has its gap looked at
    const before = status.lastReadingAt;
    status.lastReadingAt = Math.max(at, before ?? 0);
    if (before !== null && at - before > stalenessOf(plan.intervalMs) && !this.unread.known(plan.id)) {
      // a gap that has a reason already keeps it
      const reason =
        plan.kind === 'pushed'
          ? 'Nothing was pushed.'
          : 'Nothing was kept: Zetopsis was not running, too busy, or ended while PostgreSQL was away.';
      await this.unread.open(plan.id, before, reason);
    }
    await this.unread.close(plan.id, at);
  }
  private notStored(reader: Reads, at: number, error: unknown): void {
    this.notTaken(
      reader,
      at,
      'The reading could not be stored; the server’s log says why. It is tried again at the next reading.',
    );
    this.log.failure('readingNotStored', error, { endpoint: reader.plan.id });
  }
  private notTaken(reader: Reads, at: number, why: string): void {
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
    const own = [...this.readers.values()].filter(
      ({ plan }) => plan.kind === 'node' && plan.connectionId === connectionId,
    );
    return own.length > 0 && own.every(({ status }) => status.state !== 'waiting') && !this.importing.has(connectionId);
  }

  /** Nodes' pages of a connection that are read now. */
  plansOf(connectionId: string): EndpointPlan[] {
    return [...this.readers.values()]
      .map(({ plan }) => plan)
      .filter((plan) => plan.kind === 'node' && plan.connectionId === connectionId);
  }

  /** Notes that an endpoint's past has been read up to a moment: it is not asked for again. */
  async historyRead(endpointId: number, before: number): Promise<void> {
    await this.store.historyRead(endpointId, before);
  }
  async historyWanted(endpointId: number): Promise<boolean> {
    return (await this.store.all()).find(({ id }) => id === endpointId)?.historyUntil === null;
  }

  // ---- what can be seen -------------------------------------------------------------------------------------------

  private *everyone(): Generator<{ plan: EndpointPlan; status: EndpointStatus }> {
    yield* this.readers.values();
    yield* this.idle.values();
  }
  private mayList(reach: Reach, plan: EndpointPlan): boolean {
    if (plan.connectionId === null) return reach.mayEverywhere('read');
    const cluster = this.connections.nameOf(plan.connectionId);
    // the nodes of a cluster are shared; what else is of the cluster as a whole may speak of anybody
    if (plan.namespace === null) return plan.kind === 'node' ? reach.touches(cluster) : reach.whole(cluster);
    return reach.reads(cluster, plan.namespace);
  }
  /** What may be looked at closely: a node's page speaks of every pod on it, and is for those who may see the whole cluster. */
  private mayLookInto(reach: Reach, plan: EndpointPlan): boolean {
    if (plan.connectionId === null) return reach.mayEverywhere('read');
    return reach.may('read', this.connections.nameOf(plan.connectionId), plan.namespace);
  }

  list(reach: Reach): EndpointAnswer[] {
    return [...this.everyone()]
      .filter(({ plan }) => this.mayList(reach, plan))
      .map(({ plan, status }) => this.answer(plan, status))
      .sort(
        (a, b) =>
          (a.connection ?? '~').localeCompare(b.connection ?? '~') ||
          KINDS.indexOf(a.kind) - KINDS.indexOf(b.kind) ||
          a.name.localeCompare(b.name),
      );
  }
  private answer(plan: EndpointPlan, status: EndpointStatus): EndpointAnswer {
    const newestAt = status.lastReadingAt;
    const overdue =
      status.state === 'read' && newestAt !== null && this.clock.now() - newestAt > stalenessOf(plan.intervalMs);
    return {
      id: plan.id,
      kind: plan.kind,
      connection: plan.connectionId === null ? null : this.connections.nameOf(plan.connectionId),
      name: plan.name,
      scout: plan.scout,
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
      lastErrorAt: status.errorAt === null ? null : Math.round(status.errorAt),
      nextDueAt: status.nextDueAt,
    };
  }
  /** One that may be looked into, or a refusal in the same words as for one that is not there. */
  look(reach: Reach, id: number): { plan: EndpointPlan; status: EndpointStatus; answer: EndpointAnswer } {
    const own = this.readers.get(id) ?? this.idle.get(id);
    if (!own || !this.mayList(reach, own.plan)) throw new Refusal('notFound', 'This endpoint is not read (any more).');
    if (!this.mayLookInto(reach, own.plan)) {
      const cluster = this.connections.nameOf(own.plan.connectionId ?? '');
      demand(reach, 'read', cluster, own.plan.namespace);
    }
    return { plan: own.plan, status: own.status, answer: this.answer(own.plan, own.status) };
  }
  /** Of those that are not retired, as the database has them. */
  async namesInUse(kind: EndpointPlan['kind']): Promise<string[]> {
    return (await this.store.all())
      .filter((row) => row.kind === kind && row.retiredAt === null)
      .map(({ name }) => name);
  }
  byName(kind: EndpointPlan['kind'], name: string): EndpointAnswer | null {
    for (const { plan, status } of this.everyone())
      if (plan.kind === kind && plan.name === name) return this.answer(plan, status);
    return null;
  }
  /** Plans of everything that is known, for those who may see all. */
  plans(): EndpointPlan[] {
    return [...this.everyone()].map(({ plan }) => plan);
  }

  rawPage(reach: Reach, id: number): RawPage {
    const { status } = this.look(reach, id);
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
      .filter(({ plan }) => plan.kind === 'node' && connectionIds.includes(plan.connectionId ?? ''))
      .map(({ plan }) => plan.id);
    return this.store.gaps(ids, from, to);
  }
  newestReading(connectionIds: readonly string[]): number | null {
    const times = [...this.readers.values()]
      .filter(({ plan }) => plan.kind === 'node' && connectionIds.includes(plan.connectionId ?? ''))
      .map(({ status }) => status.lastReadingAt ?? 0);
    const newest = Math.max(0, ...times);
    return newest === 0 ? null : newest;
  }
}

const KINDS: readonly EndpointPlan['kind'][] = ['node', 'found', 'given', 'pushed', 'own'];
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
