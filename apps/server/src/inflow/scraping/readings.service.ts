import { Injectable } from '@nestjs/common';
import { DEFAULT_PAGE_LIMITS, type PageLimits, PageMemory } from '@zetopsis/core/exposition';
import { stalenessOf } from '@zetopsis/core/samples';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Clock } from '../../ground/platform/settings.ts';
import type { Acceptance } from '../../keeping/store/acceptance.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { type Ask, AskingService } from './asking.service.ts';
import { EndpointStore } from './endpoint.store.ts';
import { noteResult, type Reads } from './endpointReader.ts';
import type { FetchResult } from './fetched.ts';
import { fetchPage } from './fetchPage.ts';
import { Gaps } from './gaps.ts';
import { HistoryService } from './history.service.ts';
import { atItsReading, KnownEndpoints } from './knownEndpoints.ts';
import type { EndpointPlan } from './plans.ts';

const MEBIBYTE = 1024 * 1024;

/** Fetches pages, takes what was read or pushed, and says why something was not. */
@Injectable()
export class ReadingsService {
  private readonly unread: Gaps;

  constructor(
    private readonly known: KnownEndpoints,
    private readonly configuration: ConfigurationService,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
    private readonly asking: AskingService,
    private readonly history: HistoryService,
    private readonly guard: AddressGuard,
    private readonly clock: Clock,
    private readonly live: LiveService,
    private readonly log: ServerLog,
    store: EndpointStore,
  ) {
    this.unread = new Gaps(store, (endpoint, error) => log.failure('gapNotKept', error, { endpoint }));
  }

  get pageLimits(): PageLimits {
    const megabytes = this.configuration.get('retention', 'kept')?.pageMegabytes;
    return { ...DEFAULT_PAGE_LIMITS, ...(megabytes === undefined ? {} : { pageBytes: megabytes * MEBIBYTE }) };
  }
  async fetch(plan: EndpointPlan, timeoutMs: number): Promise<FetchResult> {
    const memory = this.known.readers.get(plan.id)?.memory ?? new PageMemory();
    if (plan.page) return plan.page(memory);
    let ask: Ask;
    try {
      ask = this.asking.ask(plan);
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error);
      return { ok: false, reason, durationMs: 0 };
    }
    return fetchPage({ ask, guard: this.guard, timeoutMs, memory, limits: this.pageLimits });
  }

  /** Takes what a sender pushed; `read` makes a page of it. Null when the sender is not known (any more). */
  async push(
    name: string,
    at: number,
    read: (memory: PageMemory) => Promise<FetchResult>,
  ): Promise<{ result: FetchResult; taken: Acceptance | null } | null> {
    const reader = [...this.known.readers.values()].find(({ plan }) => plan.kind === 'pushed' && plan.name === name);
    if (!reader) return null;
    const result = await read(reader.memory);
    noteResult(reader.status, result, this.clock.now());
    return new Promise(
      (done) => void this.took({ plan: reader.plan, at, result, tell: (taken) => done({ result, taken }) }),
    );
  }

  /**
   * Resolves when the endpoint may be read again: it is, while what was read waits to be stored. What becomes of it is
   * told then; null: nothing.
   */
  async took({
    plan,
    at,
    result,
    tell = () => undefined,
  }: {
    readonly plan: EndpointPlan;
    readonly at: number;
    readonly result: FetchResult;
    readonly tell?: (taken: Acceptance | null) => void;
  }): Promise<void> {
    const reader = this.known.readers.get(plan.id);
    if (!reader) return tell(null);
    this.history.note(plan.id, result, this.numbers.table.countOf(plan.id));
    try {
      if (!result.ok) {
        await this.unread.open(plan.id, { from: reader.status.lastReadingAt ?? at, reason: result.reason });
        this.live.touch('sources');
        return tell(null);
      }
      const { durationMs } = result.fetched;
      const page = atItsReading(result.fetched.page, at);
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
      this.unread.maybeOpen(plan.id);
      this.notTaken(reader, at, `Another process of Zetopsis (${this.samples.status.heldBy}) reads the endpoints.`);
      return;
    }
    if (taken.kind === 'gone') return;
    if (taken.kind === 'givenUp') {
      await this.unread.givenUp(plan.id, status.lastReadingAt ?? at, taken.why);
      return;
    }
    // at once: readings that waited are told of one after the other, before any of them has its gap looked at
    const before = status.lastReadingAt;
    status.lastReadingAt = Math.max(at, before ?? 0);
    if (before !== null && at - before > stalenessOf(plan.intervalMs) && !this.unread.known(plan.id)) {
      // a gap that has a reason already keeps it
      const own = plan.kind !== 'pushed';
      const reason = own
        ? 'Nothing was kept: Zetopsis was not running, too busy, or ended while PostgreSQL was away.'
        : 'Nothing was pushed.';
      await this.unread.open(plan.id, { from: before, reason, own });
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

  /** It is not read from now on, by plan. */
  stops(endpointId: number): void {
    this.unread.maybeOpen(endpointId);
  }
  /** Nothing more is said of it. */
  forget(endpointId: number): void {
    this.unread.forget(endpointId);
  }
}
