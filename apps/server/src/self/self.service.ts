import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { Reach } from '@zetopsis/core/access';
import { type FamilyOut, PageBuffer, type PageMemory, readBuffer, writePage } from '@zetopsis/core/exposition';
import { PLAIN } from '@zetopsis/core/scouting';
import { DeliveryService } from '../delivery/delivery.service.ts';
import { LoopWatch } from '../platform/loopWatch.ts';
import { Clock } from '../platform/settings.ts';
import { Unforeseen } from '../platform/unforeseen.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import type { FetchResult } from '../scraping/fetchPage.ts';
import { SamplesService } from '../store/samples.service.ts';
import { UsageService } from '../usage/usage.service.ts';

const INTERVAL = 15_000;
const STATES = ['waiting', 'read', 'late', 'failing', 'paused', 'retired'] as const;

/** Zetopsis as a thing that is read like any other: its own page, and its own endpoint. */
@Injectable()
export class SelfService implements OnApplicationBootstrap, OnApplicationShutdown {
  constructor(
    private readonly endpoints: EndpointsService,
    private readonly samples: SamplesService,
    private readonly deliveries: DeliveryService,
    private readonly usage: UsageService,
    private readonly loop: LoopWatch,
    private readonly unforeseen: Unforeseen,
    private readonly clock: Clock,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    this.endpoints.ownPage = (memory) => this.read(memory);
    await this.endpoints.match(
      ({ plan }) => plan.kind === 'own',
      [
        {
          kind: 'own',
          connectionId: null,
          name: 'Zetopsis itself',
          namespace: null,
          scout: null,
          url: new URL('zetopsis:/api/self/metrics'),
          through: null,
          proof: { by: 'nothing' },
          authority: '',
          intervalMs: INTERVAL,
          timeoutMs: null,
          dress: PLAIN,
          use: 'read',
          as: null,
        },
      ],
    );
  }
  onApplicationShutdown(): void {
    this.endpoints.ownPage = null;
  }

  /** Its own page, read the way any other is. */
  private async read(memory: PageMemory): Promise<FetchResult> {
    const began = performance.now();
    const raw = Buffer.from(await this.page());
    const limits = this.endpoints.pageLimits;
    const buffer = new PageBuffer(limits);
    buffer.push(raw);
    const page = await readBuffer(buffer, { form: 'openmetrics', limits, memory }, async () => undefined);
    const contentType = 'application/openmetrics-text; version=1.0.0';
    return { ok: true, fetched: { page, contentType, raw, durationMs: performance.now() - began } };
  }

  async page(): Promise<string> {
    const now = this.clock.now();
    const { status } = this.samples;
    const own = this.endpoints.list(Reach.ofZetopsis());
    const late = own
      .filter(({ state, nextDueAt }) => (state === 'read' || state === 'failing') && nextDueAt !== null)
      .map(({ nextDueAt }) => Math.max(0, now - nextDueAt!));
    const letters = await this.deliveries.counts().catch(() => null);
    const one = (value: number): FamilyOut['samples'] => [{ labels: {}, value }];
    const gauge = (name: string, unit: string, help: string, samples: FamilyOut['samples']): FamilyOut => ({
      name: `zetopsis_${name}${unit === '' ? '' : `_${unit}`}`,
      type: 'gauge',
      unit,
      help,
      samples,
    });
    const oldest = [...this.samples.unpacked.values()].reduce((least, { first }) => Math.min(least, first), now);
    return writePage([
      gauge(
        'endpoints',
        '',
        'Endpoints by their state.',
        STATES.map((state) => ({
          labels: { state },
          value: own.filter((endpoint) => endpoint.state === state).length,
        })),
      ),
      gauge('reading_overdue', 'seconds', 'How long the most overdue reading is.', one(Math.max(0, ...late) / 1000)),
      {
        ...gauge('samples_taken', '', 'Samples taken since the start.', one(this.samples.samplesTaken)),
        type: 'counter',
      },
      gauge('series', '', 'Series that are known.', one(status.series)),
      gauge('series_refused', '', 'Series that are past a limit.', one(status.refusedSeries)),
      gauge('readings_waiting', '', 'Readings that wait to be stored.', one(status.waiting)),
      gauge('readings_waiting', 'bytes', 'Size of the readings that wait to be stored.', one(status.waitingBytes)),
      { ...gauge('readings_lost', '', 'Readings given up.', one(status.lost)), type: 'counter' },
      gauge('journal_lag', 'seconds', 'Age of the oldest reading that is not packed.', one((now - oldest) / 1000)),
      gauge(
        'usage_query',
        'seconds',
        'How long working out a cluster’s usage took the last time.',
        one(this.usage.lastTook / 1000),
      ),
      ...(letters
        ? [
            gauge('deliveries', '', 'Messages that are not sent yet, and those that nobody takes.', [
              { labels: { state: 'waiting' }, value: letters.waiting },
              { labels: { state: 'dead' }, value: letters.dead },
            ]),
          ]
        : []),
      gauge(
        'event_loop_delay',
        'seconds',
        'Longest hold-up since the page before.',
        one((this.loop.longest(INTERVAL)?.ms ?? 0) / 1000),
      ),
      {
        ...gauge('uncaught_errors', '', 'Errors that nobody caught since the start.', one(this.unforeseen.count)),
        type: 'counter',
      },
      gauge('memory_resident', 'bytes', 'Memory of this process.', one(process.memoryUsage.rss())),
      {
        ...gauge(
          'cpu',
          'seconds',
          'CPU time of this process.',
          one(process.cpuUsage().user / 1e6 + process.cpuUsage().system / 1e6),
        ),
        type: 'counter',
      },
    ]);
  }
}
