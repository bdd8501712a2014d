import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { MINUTE } from '@zetopsis/core/units';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LeaseService } from '../../keeping/store/lease.service.ts';
import { EndpointStore, type HistoryRow } from './endpoint.store.ts';
import type { FetchResult } from './fetched.ts';

const STRETCH = 5 * MINUTE;
const KEEP_EVERY = 20_000;

interface Sum {
  at: number;
  readings: number;
  failures: number;
  took: number;
  longest: number;
  bytes: number | null;
  series: number | null;
  reason: string | null;
}

/** How the readings of every endpoint went, in stretches of five minutes. */
@Injectable()
export class HistoryService implements OnApplicationBootstrap, OnApplicationShutdown {
  private sums = new Map<number, Sum>();
  private readonly keeper = new Repeated(() => this.keep(false), KEEP_EVERY);
  private keeping: Promise<void> = Promise.resolve();

  constructor(
    private readonly store: EndpointStore,
    private readonly lease: LeaseService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}
  onApplicationBootstrap(): void {
    this.keeper.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.keeper.stop();
    this.keep(true);
    await this.keeping;
  }

  note(endpointId: number, result: FetchResult, series: number): void {
    const at = Math.floor(this.clock.now() / STRETCH) * STRETCH;
    const known = this.sums.get(endpointId);
    if (known && known.at !== at) this.keep(false);
    let sum = known?.at === at ? known : undefined;
    if (!sum) {
      sum = { at, readings: 0, failures: 0, took: 0, longest: 0, bytes: null, series: null, reason: null };
      this.sums.set(endpointId, sum);
    }
    if (result.ok) {
      sum.readings++;
      sum.took += result.fetched.durationMs;
      sum.longest = Math.max(sum.longest, result.fetched.durationMs);
      sum.bytes = result.fetched.page.bytes;
      sum.series = series;
    } else {
      sum.failures++;
      sum.reason = result.reason;
    }
  }
  /** The stretch that is not kept yet, as far as it goes. */
  current(endpointId: number): HistoryRow | null {
    const sum = this.sums.get(endpointId);
    return sum ? rowOf(endpointId, sum) : null;
  }

  /** Of each endpoint what was noted nearest before a moment, and not longer before than `reach`. */
  around(at: number, reach: number): Promise<Map<number, HistoryRow>> {
    return this.store.historyAround(at, reach);
  }

  private keep(all: boolean): void {
    const now = this.clock.now();
    const rows: HistoryRow[] = [];
    for (const [endpointId, sum] of this.sums) {
      if (!all && sum.at + STRETCH > now) continue;
      rows.push(rowOf(endpointId, sum));
      this.sums.delete(endpointId);
    }
    if (rows.length === 0 || this.lease.epoch === 0) return;
    this.keeping = this.keeping
      .then(() => this.store.keepHistory(rows))
      .catch((error: unknown) => this.log.failure('historyNotKept', error));
  }
}

const rowOf = (endpointId: number, sum: Sum): HistoryRow => ({
  endpointId,
  at: sum.at,
  readings: sum.readings,
  failures: sum.failures,
  durationMs: sum.readings === 0 ? null : sum.took / sum.readings,
  longestMs: sum.readings === 0 ? null : sum.longest,
  bytes: sum.bytes,
  series: sum.series,
  reason: sum.reason,
});
