import { Injectable } from '@nestjs/common';
import type { FlowLines } from '@zetopsis/contract';
import { formatLatency } from '@zetopsis/core/format';
import type { PodObject } from '@zetopsis/core/inventory';
import {
  BOUND_LABEL,
  isFailed,
  latencyOnGrid,
  mayTellOfRequests,
  type RequestSource,
  ratesOnGrid,
  recogniseRequests,
} from '@zetopsis/core/requests';
import type { SeriesId } from '@zetopsis/core/units';
import { gridEnd } from '@zetopsis/core/usage';
import { SamplesService } from '../store/samples.service.ts';
import { SeriesNumbers } from '../store/seriesNumbers.ts';
import { listed } from './lines.ts';
import { OwnSeries } from './ownSeries.service.ts';
import { type SeenUsage, UsageService } from './usage.service.ts';

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
export class RequestsService {
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
    const unread = told.all.every((value) => Number.isNaN(value))
      ? 'Nothing of this was read in this window. Sources says whether the endpoints of its pods deliver.'
      : null;
    const idle = unread ?? 'No request was answered in this window.';
    const none = (values: Float64Array) => values.every((value) => Number.isNaN(value));
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
          ? none(told.failedShare)
            ? idle
            : null
          : `${source.count} does not tell which requests failed: it would need a label such as a status code, an outcome or the type of error.`,
      },
      {
        title: 'Latency',
        unit: 'seconds',
        lines: [line('half below', 'half'), line('95 % below', 'nearlyAll')],
        limit: null,
        empty:
          source.buckets === null
            ? 'Its programs count requests, but no histogram of theirs tells how long they took.'
            : none(told.half)
              ? idle
              : null,
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
    const read = await this.samples.read(
      [...counts, ...buckets],
      grid.start - Math.max(grid.step, 6 * interval),
      gridEnd(grid),
      this.usage.resolutionFor({ from: grid.start, to: gridEnd(grid), live: false }),
    );
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
    const { below, most } = latencyOnGrid(
      known(buckets).map(({ labels, endpoint, samples }) => ({
        of: `${endpoint} ${JSON.stringify(labels.filter(([name]) => name !== BOUND_LABEL))}`,
        bound: boundOf(labels) * source.factor,
        samples,
      })),
      grid,
      interval,
      SHARES,
    );
    return { ...rates, half: below[0]!, nearlyAll: below[1]!, most }; // one for each share
  }
}

const boundOf = (labels: readonly (readonly [string, string])[]): number => {
  const text = labels.find(([name]) => name === BOUND_LABEL)?.[1] ?? '';
  return text === '+Inf' ? Number.POSITIVE_INFINITY : Number(text);
};
