import { Injectable } from '@nestjs/common';
import { isUnread, listed } from '@zetopsis/answers/cluster';
import type { SeenUsage } from '@zetopsis/answers/usage';
import type { FlowLines } from '@zetopsis/contract';
import {
  BOUND_LABEL,
  isFailed,
  latencyOnGrid,
  mayTellOfRequests,
  type RequestSource,
  ratesOnGrid,
  recogniseRequests,
} from '@zetopsis/core/answered';
import { emptyBecause } from '@zetopsis/core/emptiness';
import { formatLatency } from '@zetopsis/core/format';
import type { PodObject } from '@zetopsis/core/inventory';
import type { SeriesId } from '@zetopsis/core/units';
import { gridEnd } from '@zetopsis/core/usage';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { OwnSeries } from './ownSeries.service.ts';
import { UsageService } from './usage.service.ts';

/** What a sheet's pods answer. */
interface Asked {
  readonly usage: SeenUsage;
  readonly pods: readonly PodObject[];
}
interface Told {
  readonly all: Float64Array;
  readonly failedShare: Float64Array;
  readonly half: Float64Array;
  readonly nearlyAll: Float64Array;
  readonly most: number;
}
const SHARES = [0.5, 0.95] as const;

/** Requests, failures and latency of pods, as their programs tell of them. */
@Injectable()
export class AnsweredRequests {
  constructor(
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
    private readonly own: OwnSeries,
    private readonly usage: UsageService,
  ) {}

  /** Empty where no program of these pods tells of requests. */
  async flowsOf(now: Asked, then: Asked | null): Promise<FlowLines[]> {
    const ids = this.seriesOf(now);
    const source = recogniseRequests(
      [...ids].map(([metric, list]) => ({ metric, labels: list.map((id) => new Map(this.numbers.table.labels(id))) })),
    );
    if (source === null) return [];
    const [told, before] = await Promise.all([
      this.read(now, ids, source),
      then ? this.read(then, this.seriesOf(then), source) : null,
    ]);
    const line = (name: string, of: Exclude<keyof Told, 'most'>) => ({
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

  private seriesOf({ usage, pods }: Asked): Map<string, SeriesId[]> {
    const metrics = this.numbers.table.metricsNamed(mayTellOfRequests);
    return this.own.ofPods(usage.connectionId, pods, metrics);
  }

  private async read(
    { usage: { input } }: Asked,
    ids: ReadonlyMap<string, readonly SeriesId[]>,
    source: RequestSource,
  ): Promise<Told> {
    const { grid } = input;
    const counts = ids.get(source.count) ?? [];
    const buckets = source.buckets === null ? [] : (ids.get(source.buckets) ?? []);
    const interval = this.own.intervalOf([...counts, ...buckets], input.interval);
    const read = await this.samples.read({
      ids: [...counts, ...buckets],
      from: grid.start - Math.max(grid.step, 6 * interval),
      to: gridEnd(grid),
      resolution: this.usage.resolutionFor({ from: grid.start, to: gridEnd(grid), live: false }),
    });
    const { table } = this.numbers;
    const known = (list: readonly SeriesId[]) =>
      list.flatMap((id) => {
        const samples = read.get(id);
        return samples ? [{ labels: table.labels(id), endpoint: table.endpointOf(id), samples }] : [];
      });
    const rates = ratesOnGrid(
      known(counts).map(({ labels, samples }) => ({ failed: isFailed(labels), samples })),
      grid,
      interval,
    );
    const { below, most } = latencyOnGrid({
      buckets: known(buckets).map(({ labels, endpoint, samples }) => ({
        of: `${endpoint} ${JSON.stringify(labels.filter(([name]) => name !== BOUND_LABEL))}`,
        bound: boundOf(labels) * source.factor,
        samples,
      })),
      grid,
      interval,
      shares: SHARES,
    });
    return { ...rates, half: below[0]!, nearlyAll: below[1]!, most }; // one for each share
  }
}

const boundOf = (labels: readonly (readonly [string, string])[]): number => {
  const text = labels.find(([name]) => name === BOUND_LABEL)?.[1] ?? '';
  return text === '+Inf' ? Number.POSITIVE_INFINITY : Number(text);
};
