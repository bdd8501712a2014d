import { Injectable } from '@nestjs/common';
import { isUnread, listed } from '@zetopsis/answers/cluster';
import type { SeenUsage } from '@zetopsis/answers/usage';
import type { FlowLines } from '@zetopsis/contract';
import { emptyBecause } from '@zetopsis/core/emptiness';
import { formatLatency } from '@zetopsis/core/format';
import type { PodObject } from '@zetopsis/core/inventory';
import { gridEnd } from '@zetopsis/core/usage';
import { type AnsweredCourse, RequestSeries } from './requestSeries.service.ts';
import { UsageService } from './usage.service.ts';

/** What a sheet's pods answer. */
interface Asked {
  readonly usage: SeenUsage;
  readonly pods: readonly PodObject[];
}

/** Requests, failures and latency of pods, as their programs tell of them. */
@Injectable()
export class AnsweredRequests {
  constructor(
    private readonly series: RequestSeries,
    private readonly usage: UsageService,
  ) {}

  /** Empty where no program of these pods tells of requests. */
  async flowsOf(now: Asked, then: Asked | null): Promise<FlowLines[]> {
    const series = this.series.of(now.usage.connectionId, now.pods);
    if (series === null) return [];
    const { source } = series;
    const of = ({ usage: { input } }: Asked) => {
      const window = { from: input.grid.start, to: gridEnd(input.grid), live: false };
      return { grid: input.grid, interval: input.interval, resolution: this.usage.resolutionFor(window) };
    };
    const [told, before] = await Promise.all([
      this.series.read(series, of(now)),
      then ? this.series.read({ source, ids: this.series.idsOf(then.usage.connectionId, then.pods) }, of(then)) : null,
    ]);
    const line = (name: string, of: Exclude<keyof AnsweredCourse, 'most'>) => ({
      name,
      values: listed(told[of]),
      against: before ? listed(before[of]) : null,
    });
    const unread = isUnread(told.all) ? emptyBecause('requestsNotRead') : null;
    const idle = unread ?? emptyBecause('noRequest');
    return [
      {
        title: 'Requests answered',
        unit: 'per s',
        lines: [line('answered', 'all')],
        limit: null,
        empty: unread,
        note: `from ${source.count}`,
      },
      {
        title: 'Failures, of the requests answered',
        unit: 'share',
        lines: [line('failed', 'failedShare')],
        limit: null,
        empty: source.tellsFailures
          ? isUnread(told.failedShare)
            ? idle
            : null
          : emptyBecause('failuresNotTold', source.count),
      },
      {
        title: 'Latency',
        unit: 'seconds',
        lines: [line('half below', 'half'), line('95 % below', 'nearlyAll')],
        limit: null,
        empty: source.buckets === null ? emptyBecause('latencyNotTold') : isUnread(told.half) ? idle : null,
        ...(told.nearlyAll.some((value) => value === told.most)
          ? { note: `at ${formatLatency(told.most)}: that or longer, the last bound of ${source.buckets}` }
          : {}),
      },
    ];
  }
}
