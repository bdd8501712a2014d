import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { PLAIN } from '@zetopsis/core/scouting';
import pLimit from 'p-limit';
import { LiveService } from '../../ground/live/live.service.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { EndpointStore, type GapRow } from './endpoint.store.ts';
import { EndpointReader, type EndpointStatus, freshStatus, type Reads } from './endpointReader.ts';
import { KnownEndpoints } from './knownEndpoints.ts';
import { type EndpointPlan, type PlanDraft, printOf } from './plans.ts';
import { PushedSender } from './pushedSender.ts';
import { ReadingsService } from './readings.service.ts';

/** Answers up to now wait for a slow endpoint no longer than this. */
const SETTLES_WITHIN = 2000;
/** Listed of those that were retired since what they were of is gone; the last ones. */
const MOST_RETIRED = 2000;

/** All endpoints and their readers. What there is to be read is told by those who find it, scope by scope. */
@Injectable()
export class EndpointsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private newest = new Map<number, number>();
  private readonly inOrder = pLimit(1);
  private loaded: Promise<void> | null = null;
  private readonly removed = new Set<(plan: EndpointPlan) => void>();

  constructor(
    private readonly known: KnownEndpoints,
    private readonly store: EndpointStore,
    private readonly readings: ReadingsService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
    private readonly clock: Clock,
    private readonly live: LiveService,
    private readonly log: ServerLog,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    await this.load();
    this.inventory.onChange((connectionId, kind) => kind === 'node' && this.reviewNodes(connectionId));
    this.connections.onChange((connectionId) => this.reviewNodes(connectionId, true));
    for (const id of this.connections.ids()) this.reviewNodes(id);
  }
  onApplicationShutdown(): void {
    for (const reader of this.known.readers.values()) reader.stop();
  }
  private load(): Promise<void> {
    this.loaded ??= (async () => {
      this.newest = await this.store.newestReadings();
      for (const { id, connectionId } of await this.store.all())
        if (connectionId !== null) this.known.connectionOf.set(id, connectionId);
    })();
    return this.loaded;
  }

  /**
   * Up to here every reading that was due has come: who is answered up to now is answered the same later. An endpoint that
   * is slow holds this up for two seconds at most.
   */
  settledUntil(now: number): number {
    let settled = Math.min(now, (this.samples.oldestNotKept ?? now + 1) - 1);
    for (const reader of this.known.readers.values()) {
      const awaited = reader.awaited(now);
      if (awaited !== null) settled = Math.min(settled, awaited - 1);
    }
    return Math.max(settled, now - SETTLES_WITHIN);
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
          group: '',
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
    return this.inOrder(work).catch((error: unknown) => this.log.failure('endpointsNotReviewed', error));
  }
  private async forgetConnection(connectionId: string): Promise<void> {
    const ofIt = ({ plan }: { plan: EndpointPlan }) => plan.connectionId === connectionId;
    for (const reader of [...this.known.readers.values()].filter(ofIt)) this.drop(reader);
    const gone = [...this.known.connectionOf].filter(([, id]) => id === connectionId).map(([id]) => id);
    await this.forget(gone);
  }
  private async forget(ids: readonly number[]): Promise<void> {
    for (const id of ids) {
      this.readings.forget(id);
      this.known.idle.delete(id);
      this.known.connectionOf.delete(id);
      this.newest.delete(id);
    }
    await this.samples.forget(ids);
  }
  onRemoved(listener: (plan: EndpointPlan) => void): void {
    this.removed.add(listener);
  }
  /** With everything that was read from it; what asked for it is told. */
  remove(id: number): Promise<void> {
    return this.inOrder(async () => {
      const own = this.known.get(id);
      if (own === undefined) return;
      for (const tell of this.removed) tell(own.plan);
      const reader = this.known.readers.get(id);
      if (reader) this.drop(reader);
      await this.forget([id]);
      await this.store.remove(id);
      this.live.touch('sources');
    });
  }

  private async reconcile(
    scope: (own: { plan: EndpointPlan }) => boolean,
    drafts: readonly PlanDraft[],
    afresh: boolean,
  ): Promise<void> {
    await this.load();
    const wanted = new Map(drafts.map((draft) => [draft.name, draft]));
    for (const reader of [...this.known.readers.values()].filter(scope)) {
      const draft = wanted.get(reader.plan.name);
      if (draft === undefined) await this.retire(reader.plan, reader.status);
      else if (!afresh && printOf(draft) === reader.print) wanted.delete(reader.plan.name);
      else this.drop(reader);
    }
    for (const own of [...this.known.idle.values()].filter(scope)) {
      if (own.status.state !== 'retired' && !wanted.has(own.plan.name)) await this.retire(own.plan, own.status);
    }
    for (const draft of wanted.values()) await this.begin(draft);
    this.live.touch('sources');
  }
  private async begin(draft: PlanDraft): Promise<void> {
    const id = await this.store.use(draft);
    const plan: EndpointPlan = { id, ...draft };
    if (plan.connectionId !== null) this.known.connectionOf.set(id, plan.connectionId);
    this.numbers.dress(id, plan.dress);
    const before = this.known.idle.get(id)?.status;
    this.known.idle.delete(id);
    if (plan.use === 'read' && plan.as === null) {
      const newest = this.newest.get(id) ?? null;
      const reader =
        plan.kind === 'pushed'
          ? new PushedSender(plan, this.clock, newest)
          : new EndpointReader(
              plan,
              this.clock,
              (own, timeout) => this.readings.fetch(own, timeout),
              (own, at, result) => this.readings.took({ plan: own, at, result }),
              newest,
            );
      this.known.readers.set(id, reader);
      reader.start();
      return;
    }
    const now = this.clock.now();
    const status = { ...(before ?? freshStatus(now, this.newest.get(id) ?? null)), nextDueAt: null };
    if (plan.as !== null) {
      const error = `Its page is no metrics page but wants the translator ${plan.as}, and there is none of that name.`;
      this.known.idle.set(id, { plan, status: { ...status, state: 'failing', error, errorAt: now } });
      return;
    }
    const state = plan.use === 'paused' ? 'paused' : 'retired';
    this.known.idle.set(id, {
      plan,
      status: { ...status, state, since: before?.state === state ? before.since : now },
    });
    await this.store.openGap({
      endpointId: id,
      from: status.lastReadingAt ?? now,
      reason: state === 'paused' ? 'Paused.' : 'Retired.',
      planned: true,
    });
    this.readings.stops(id);
    if (state === 'retired') await this.store.retire(id, new Date(now));
  }
  private async retire(plan: EndpointPlan, status: EndpointStatus): Promise<void> {
    const reader = this.known.readers.get(plan.id);
    if (reader) this.drop(reader);
    const now = this.clock.now();
    this.known.idle.set(plan.id, { plan, status: { ...status, state: 'retired', since: now, nextDueAt: null } });
    this.forgetRetired();
    await this.store.retire(plan.id, new Date(now));
  }
  /** Pods come and go for ever: of what is gone by itself the last are listed. What was read of the others is kept as well. */
  private forgetRetired(): void {
    const gone = [...this.known.idle.values()].filter(
      ({ plan, status }) => status.state === 'retired' && plan.kind !== 'given',
    );
    for (const { plan } of gone.slice(0, Math.max(0, gone.length - MOST_RETIRED))) this.known.idle.delete(plan.id);
  }
  private drop(reader: Reads): void {
    reader.stop();
    this.known.readers.delete(reader.plan.id);
    if (reader.status.lastReadingAt !== null) this.newest.set(reader.plan.id, reader.status.lastReadingAt);
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
    const own = [...this.known.nodesOf(connectionId)];
    return own.length > 0 && own.every(({ status }) => status.state !== 'waiting') && !this.importing.has(connectionId);
  }

  /** Nodes' pages of a connection that are read now. */
  plansOf(connectionId: string): EndpointPlan[] {
    return [...this.known.nodesOf(connectionId)].map(({ plan }) => plan);
  }

  /** Notes that an endpoint's past has been read up to a moment: it is not asked for again. */
  async historyRead(endpointId: number, before: number): Promise<void> {
    await this.store.historyRead(endpointId, before);
  }
  async historyWanted(endpointId: number): Promise<boolean> {
    return (await this.store.all()).find(({ id }) => id === endpointId)?.historyUntil === null;
  }

  /** Of those that are not retired, as the database has them. */
  async namesInUse(kind: EndpointPlan['kind']): Promise<string[]> {
    return (await this.store.all())
      .filter((row) => row.kind === kind && row.retiredAt === null)
      .map(({ name }) => name);
  }
  /** Plans of everything that is known, for those who may see all. */
  plans(): EndpointPlan[] {
    return [...this.known.all()].map(({ plan }) => plan);
  }

  /** Stretches in which all endpoints of these connections were unread at once are gaps of the whole. */
  async gaps(connectionIds: readonly string[], from: number, to: number): Promise<GapRow[]> {
    const ids = [...this.known.nodesOf(...connectionIds)].map(({ plan }) => plan.id);
    return this.store.gaps(ids, from, to);
  }
  /** When which endpoint was silent, of all, the newest where there are too many. */
  silences(...within: Parameters<EndpointStore['silences']>): ReturnType<EndpointStore['silences']> {
    return this.store.silences(...within);
  }
  newestReading(connectionIds: readonly string[]): number | null {
    const times = [...this.known.nodesOf(...connectionIds)].map(({ status }) => status.lastReadingAt ?? 0);
    const newest = Math.max(0, ...times);
    return newest === 0 ? null : newest;
  }
}
