import { Injectable } from '@nestjs/common';
import {
  BOUND_LABEL,
  isFailed,
  latencyOnGrid,
  mayTellOfRequests,
  type PodAnswered,
  type RequestSource,
  ratesOnGrid,
  recogniseRequests,
} from '@zetopsis/core/answered';
import { type ClusterInventory, isReady, type PodObject, workloadKey } from '@zetopsis/core/inventory';
import { grownWithin } from '@zetopsis/core/samples';
import type { DurationMs, EpochMs, SeriesId } from '@zetopsis/core/units';
import { type Grid, gridEnd } from '@zetopsis/core/usage';
import { inPieces, Pieces } from '../../ground/platform/inPieces.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import type { Resolution } from '../../keeping/store/tiers.ts';
import { OwnSeries } from './ownSeries.service.ts';

/** Series in which pods tell of the requests that they answer. */
export interface RequestsTold {
  readonly source: RequestSource;
  readonly ids: ReadonlyMap<string, readonly SeriesId[]>;
}
/** Requests per second, the share that failed, and how long they took, in seconds, on a grid. */
export interface AnsweredCourse {
  readonly all: Float64Array;
  readonly failedShare: Float64Array;
  readonly half: Float64Array;
  readonly nearlyAll: Float64Array;
  readonly most: number;
}
const SHARES = [0.5, 0.95] as const;

/** What pods tell of the requests that they answer, read on a grid. */
@Injectable()
export class RequestSeries {
  /** Metrics that may tell of requests, of as many as were looked at. */
  private readonly mayTell: string[] = [];
  private lookedAt = 0;

  constructor(
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
    private readonly own: OwnSeries,
  ) {}

  /** Looks at those that came since: strangers may name very many. */
  private *newMetrics(): Generator<void> {
    for (;;) {
      const metric = this.numbers.table.metricAt(this.lookedAt);
      if (metric === undefined) return;
      this.lookedAt++;
      if (mayTellOfRequests(metric)) this.mayTell.push(metric);
      yield;
    }
  }
  /** Null where no program of these pods tells of requests. */
  of(connectionId: string, pods: readonly PodObject[]): RequestsTold | null {
    return this.told(this.idsOf(connectionId, pods));
  }
  /** Of all workloads of a cluster, by namespace and key, as far as these are `most` series together. */
  async ofCluster(
    connectionId: string,
    inventory: ClusterInventory,
    most: number,
  ): Promise<ReadonlyMap<string, RequestsTold>> {
    const pieces = new Pieces();
    await inPieces(this.newMetrics(), () => undefined, pieces);
    const metrics = this.mayTell;
    if (metrics.length === 0) return new Map();
    const workloadOf = new Map<string, string>();
    await inPieces(
      inventory.list('pod'),
      (pod) => {
        const workload = inventory.workloadOf(pod);
        const key = `${workload.namespace}/${workloadKey(workload)}`;
        workloadOf.set(pod.uid, key);
        workloadOf.set(`${pod.namespace}/${pod.name}`, key);
      },
      pieces,
    );
    const groups = await this.own.grouped(connectionId, metrics, ({ uid, place }) =>
      workloadOf.get(uid === '' ? place : uid),
    );
    const all = new Map<string, RequestsTold>();
    let series = 0;
    await inPieces(
      groups,
      ([key, ids]) => {
        const own = [...ids.values()].reduce((sum, list) => sum + list.length, 0);
        // one that has very many does not keep the others from being looked at
        if (series + own > most) return;
        series += own;
        const told = this.told(ids);
        if (told) all.set(key, told);
      },
      pieces,
    );
    return all;
  }
  private told(ids: ReadonlyMap<string, readonly SeriesId[]>): RequestsTold | null {
    const source = recogniseRequests(
      [...ids].map(([metric, list]) => ({ metric, labels: list.map((id) => new Map(this.numbers.table.labels(id))) })),
    );
    return source && { source, ids };
  }
  idsOf(connectionId: string, pods: readonly PodObject[]): Map<string, SeriesId[]> {
    for (const _ of this.newMetrics()); // mostly none
    return this.own.ofPods(connectionId, pods, this.mayTell);
  }

  async read(
    { source, ids }: RequestsTold,
    of: { readonly grid: Grid; readonly interval: DurationMs; readonly resolution: Resolution },
  ): Promise<AnsweredCourse> {
    const { grid } = of;
    const counts = ids.get(source.count) ?? [];
    const buckets = source.buckets === null ? [] : (ids.get(source.buckets) ?? []);
    const interval = this.own.intervalOf([...counts, ...buckets], of.interval);
    const read = await this.samples.read({
      ids: [...counts, ...buckets],
      from: grid.start - Math.max(grid.step, 6 * interval),
      to: gridEnd(grid),
      resolution: of.resolution,
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

  /** What each pod answered lately, slot by slot, from what is in memory; of pods that were there all the time. */
  spread(
    { source, ids }: RequestsTold,
    of: { readonly slots: Slots; readonly podOf: (labels: ReadonlyMap<string, string>) => PodObject | undefined },
  ): PodAnswered[] {
    const { start, length, count } = of.slots;
    const byPod = new Map<string, Float64Array>();
    for (const id of ids.get(source.count) ?? []) {
      const pod = of.podOf(new Map(this.numbers.table.labels(id)));
      if (!pod || !isReady(pod) || pod.createdAt > start) continue;
      const own = byPod.get(pod.name) ?? new Float64Array(count).fill(Number.NaN);
      byPod.set(pod.name, own);
      const samples = this.samples.recent(id, start - length);
      const { times } = samples;
      for (let slot = 0; slot < count; slot++) {
        const [from, to] = [start + slot * length, start + (slot + 1) * length];
        if (!times.some((at) => at > from && at <= to)) continue;
        const grown = grownWithin(samples, { from, to, begins: false });
        own[slot] = (Number.isNaN(own[slot]!) ? 0 : own[slot]!) + grown;
      }
    }
    return [...byPod].map(([pod, requests]) => ({ pod, requests }));
  }
}
export interface Slots {
  readonly start: EpochMs;
  readonly length: DurationMs;
  readonly count: number;
}

const boundOf = (labels: readonly (readonly [string, string])[]): number => {
  const text = labels.find(([name]) => name === BOUND_LABEL)?.[1] ?? '';
  return text === '+Inf' ? Number.POSITIVE_INFINITY : Number(text);
};
