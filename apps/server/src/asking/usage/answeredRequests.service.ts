import { Injectable } from '@nestjs/common';
import { isUnread, listed } from '@zetopsis/answers/cluster';
import { rateOver } from '@zetopsis/answers/sheet';
import type { SeenUsage } from '@zetopsis/answers/usage';
import type { FlowLines } from '@zetopsis/contract';
import { failedBy } from '@zetopsis/core/answered';
import { emptyBecause } from '@zetopsis/core/emptiness';
import { formatLatency } from '@zetopsis/core/format';
import type { PodObject } from '@zetopsis/core/inventory';
import { type MeasuredPlace, requestMeasures } from '@zetopsis/core/measures';
import { gridEnd } from '@zetopsis/core/usage';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { type AnsweredCourse, RequestSeries, type RequestsTold } from './requestSeries.service.ts';
import { UsageService } from './usage.service.ts';

/** What a sheet's pods answer. */
interface Asked {
  readonly usage: SeenUsage;
  readonly pods: readonly PodObject[];
  /** Where a measure looks that asks for the same; null: none can. */
  readonly place: MeasuredPlace | null;
}

/** Requests, failures and latency of pods, as their programs tell of them. */
@Injectable()
export class AnsweredRequests {
  constructor(
    private readonly series: RequestSeries,
    private readonly usage: UsageService,
    private readonly numbers: SeriesNumbers,
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
    const measures = now.place && this.measuresOf(series, now.place, rateOver(now.usage.input));
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
        ...measured(measures?.requests),
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
        ...measured(measures?.failures),
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
        ...measured(measures?.latency),
        ...(measures?.satisfaction == null ? {} : { more: [{ word: 'satisfaction', text: measures.satisfaction }] }),
      },
    ];
  }
  private measuresOf({ source, ids }: RequestsTold, place: MeasuredPlace, apart: number) {
    const failed = failedBy((ids.get(source.count) ?? []).map((id) => this.numbers.table.labels(id)));
    return requestMeasures(source, place, { apart, failed });
  }
}
const measured = (text: string | null | undefined): Pick<FlowLines, 'measure'> =>
  text == null ? {} : { measure: text };
