import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { spreadOf } from '@zetopsis/core/answered';
import { type AnsweredLines, type Answering, answeringOf } from '@zetopsis/core/findings';
import { DAY, type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { type Grid, gridFor } from '@zetopsis/core/usage';
import { databaseProblem } from '../../ground/platform/databaseProblem.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { FIVE } from '../../keeping/store/tiers.ts';
import { podsBy } from './podsBy.ts';
import { RequestSeries, type RequestsTold } from './requestSeries.service.ts';

const LOOK_EVERY = 30_000;
const LATELY = HOUR / 2;
/** How what is asked is spread is looked at in so many slots of this length. */
const SLOT = 5 * MINUTE;
const SLOTS = 6;
/** What is usual is looked up anew after this. */
const USUAL_HOLDS = 15 * MINUTE;
/** Where nothing was kept yet, as while a past is brought in, it is looked up again soon. */
const UNKNOWN_HOLDS = 2 * MINUTE;
const tells = ({ all }: AnsweredLines): boolean => all.some((value) => !Number.isNaN(value));
/** Of a cluster so many series are looked at; the workloads beyond are not. */
const MOST_SERIES = 20_000;
/** What tells of requests, and in which cluster. */
interface Of {
  readonly told: RequestsTold;
  readonly id: string;
}
interface Usual {
  readonly at: EpochMs;
  readonly lines: AnsweredLines;
}

/** How workloads answer against what is usual for them; looked at in the background. */
@Injectable()
export class AnsweringService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly kept = new Map<string, ReadonlyMap<string, Answering>>();
  /** By connection, namespace and workload. */
  private readonly usual = new Map<string, Usual>();
  private readonly looking = new Repeated(() => this.look(), LOOK_EVERY);

  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly series: RequestSeries,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  onApplicationBootstrap(): void {
    this.looking.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.looking.stop();
  }

  /** By namespace and workload: those that answer otherwise than usual. */
  of(connectionId: string): ReadonlyMap<string, Answering> | undefined {
    return this.kept.get(connectionId);
  }

  private async look(): Promise<void> {
    const ids = this.connections.ids();
    for (const id of this.kept.keys()) if (!ids.includes(id)) this.kept.delete(id);
    const now = this.clock.now();
    for (const [key, { at }] of this.usual) if (now - at > 2 * USUAL_HOLDS) this.usual.delete(key);
    for (const id of ids) {
      if (this.looking.ending) return;
      try {
        this.kept.set(id, await this.lookAt(id, now));
      } catch (error) {
        this.log.failure('answeringNotTold', error, { connection: id, why: databaseProblem(error) });
      }
    }
  }

  private async lookAt(id: string, now: EpochMs): Promise<ReadonlyMap<string, Answering>> {
    const found = new Map<string, Answering>();
    const podOf = podsBy(this.inventory.cluster(id).list('pod'));
    const slots = { start: now - SLOTS * SLOT, length: SLOT, count: SLOTS };
    for (const [key, told] of await this.series.ofCluster(id, this.inventory.cluster(id), MOST_SERIES)) {
      if (this.looking.ending) break;
      const lately = gridFor(now - LATELY, now, this.connections.intervalOf(id));
      const lines = await this.linesOf({ told, id, grid: lately, resolution: 'samples' });
      const usual = await this.usualOf({ key: `${id} ${key}`, told, id, now });
      const answering = answeringOf(lines, usual, spreadOf(this.series.spread(told, { slots, podOf }), slots));
      if (answering && (answering.failing || answering.slow || answering.uneven)) found.set(key, answering);
    }
    return found;
  }
  private async usualOf({
    key,
    told,
    id,
    now,
  }: Of & { readonly key: string; readonly now: EpochMs }): Promise<AnsweredLines> {
    const known = this.usual.get(key);
    if (known && now - known.at < (tells(known.lines) ? USUAL_HOLDS : UNKNOWN_HOLDS)) return known.lines;
    const lines = await this.linesOf({ told, id, grid: gridFor(now - DAY, now - LATELY, FIVE), resolution: 'five' });
    this.usual.set(key, { at: now, lines });
    return lines;
  }
  private async linesOf({
    told,
    id,
    grid,
    resolution,
  }: Of & { readonly grid: Grid; readonly resolution: 'samples' | 'five' }): Promise<AnsweredLines> {
    const interval = resolution === 'five' ? FIVE : this.connections.intervalOf(id);
    const { all, failedShare, nearlyAll } = await this.series.read(told, { grid, interval, resolution });
    return { grid, all, failedShare, latency: nearlyAll };
  }
}
