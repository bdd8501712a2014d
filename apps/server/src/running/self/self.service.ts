import { Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import { Reach } from '@zetopsis/core/access';
import { type PageMemory, writePage } from '@zetopsis/core/exposition';
import { PLAIN } from '@zetopsis/core/scouting';
import { UsageService } from '../../asking/usage/usage.service.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { LoopWatch } from '../../ground/platform/loopWatch.ts';
import { counter, gauge, OwnFigures } from '../../ground/platform/ownFigures.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { Turns } from '../../ground/platform/turns.ts';
import { Unforeseen } from '../../ground/platform/unforeseen.ts';
import { EndpointAnswersService } from '../../inflow/scraping/endpointAnswers.service.ts';
import { EndpointsService } from '../../inflow/scraping/endpoints.service.ts';
import type { FetchResult } from '../../inflow/scraping/fetched.ts';
import { ReadingsService } from '../../inflow/scraping/readings.service.ts';
import { writtenPage } from '../../inflow/scraping/writtenPage.ts';
import { OutboxService } from '../../keeping/outbox/outbox.service.ts';
import { NewestReadings } from '../../keeping/store/newestReadings.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { DatabaseFigures } from './databaseFigures.ts';

const INTERVAL = 15_000;
const STATES = ['waiting', 'read', 'late', 'failing', 'paused', 'retired'] as const;

/** Zetopsis as a thing that is read like any other: its own page, and its own endpoint. */
@Injectable()
export class SelfService implements OnApplicationBootstrap {
  constructor(
    private readonly endpoints: EndpointsService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly readings: ReadingsService,
    private readonly samples: SamplesService,
    private readonly newest: NewestReadings,
    private readonly deliveries: OutboxService,
    private readonly usage: UsageService,
    private readonly loop: LoopWatch,
    private readonly unforeseen: Unforeseen,
    private readonly turns: Turns,
    private readonly figures: OwnFigures,
    private readonly database: DatabaseFigures,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    await this.endpoints.match(
      ({ plan }) => plan.kind === 'own',
      [
        {
          kind: 'own',
          connectionId: null,
          name: 'Zetopsis itself',
          namespace: null,
          scout: null,
          group: '',
          url: new URL('zetopsis:/api/self/metrics'),
          through: null,
          proof: { by: 'nothing' },
          authority: '',
          intervalMs: INTERVAL,
          timeoutMs: null,
          dress: PLAIN,
          use: 'read',
          page: (memory) => this.read(memory),
          as: null,
        },
      ],
    );
  }

  /** Its own page, read the way any other is. */
  private async read(memory: PageMemory): Promise<FetchResult> {
    return writtenPage(await this.page(), this.readings.pageLimits, memory);
  }

  async page(): Promise<string> {
    const now = this.clock.now();
    const { status } = this.samples;
    const own = this.endpointAnswers.list(Reach.ofZetopsis());
    const late = own
      .filter(({ state, nextDueAt }) => (state === 'read' || state === 'failing') && nextDueAt !== null)
      .map(({ nextDueAt }) => Math.max(0, now - nextDueAt!));
    const letters = await this.deliveries.counts().catch(() => null);
    const oldest = [...this.newest.unpacked.values()].reduce((least, { first }) => Math.min(least, first), now);
    const memory = process.memoryUsage();
    const cpu = process.cpuUsage();
    return writePage([
      gauge({
        name: 'endpoints',
        help: 'Endpoints by their state.',
        samples: STATES.map((state) => ({
          labels: { state },
          value: own.filter((endpoint) => endpoint.state === state).length,
        })),
      }),
      gauge({
        name: 'reading_overdue',
        unit: 'seconds',
        help: 'How long the most overdue reading is.',
        samples: Math.max(0, ...late) / 1000,
      }),
      counter({ name: 'samples_taken', help: 'Samples taken since the start.', samples: this.samples.samplesTaken }),
      gauge({ name: 'series', help: 'Series that are known.', samples: status.series }),
      gauge({ name: 'series_refused', help: 'Series that are past a limit.', samples: status.refusedSeries }),
      gauge({ name: 'readings_waiting', help: 'Readings that wait to be stored.', samples: status.waiting }),
      gauge({
        name: 'readings_waiting',
        unit: 'bytes',
        help: 'Size of the readings that wait to be stored.',
        samples: status.waitingBytes,
      }),
      counter({ name: 'readings_lost', help: 'Readings given up.', samples: status.lost }),
      gauge({
        name: 'journal_lag',
        unit: 'seconds',
        help: 'Age of the oldest reading that is not packed.',
        samples: (now - oldest) / 1000,
      }),
      gauge({
        name: 'usage_query',
        unit: 'seconds',
        help: 'How long working out a cluster’s usage took the last time.',
        samples: this.usage.lastTook / 1000,
      }),
      ...(letters
        ? [
            gauge({
              name: 'deliveries',
              help: 'Messages that are not sent yet, and those that nobody takes.',
              samples: [
                { labels: { state: 'waiting' }, value: letters.waiting },
                { labels: { state: 'dead' }, value: letters.dead },
              ],
            }),
          ]
        : []),
      gauge({
        name: 'event_loop_delay',
        unit: 'seconds',
        help: 'Longest hold-up since the page before.',
        samples: (this.loop.longest(INTERVAL)?.ms ?? 0) / 1000,
      }),
      counter({
        name: 'uncaught_errors',
        help: 'Errors that nobody caught since the start.',
        samples: this.unforeseen.count,
      }),
      gauge({ name: 'memory_resident', unit: 'bytes', help: 'Memory of this process.', samples: memory.rss }),
      gauge({ name: 'memory_heap', unit: 'bytes', help: 'Objects in its memory.', samples: memory.heapUsed }),
      gauge({
        name: 'memory_buffers',
        unit: 'bytes',
        help: 'Buffers in its memory, beside the objects.',
        samples: memory.arrayBuffers,
      }),
      counter({
        name: 'cpu',
        unit: 'seconds',
        help: 'CPU time of this process.',
        samples: (cpu.user + cpu.system) / 1e6,
      }),
      gauge({
        name: 'questions',
        help: 'Questions that are worked on, and those that wait for their turn.',
        samples: [
          { labels: { state: 'worked on' }, value: this.turns.busy },
          { labels: { state: 'waiting' }, value: this.turns.waiting },
        ],
      }),
      ...(await this.database.families()),
      ...(await this.figures.all((error) => this.log.failure('ownFigureNotTold', error))),
    ]);
  }
}
