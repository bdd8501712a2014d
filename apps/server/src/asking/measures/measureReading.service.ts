import { Injectable } from '@nestjs/common';
import type { MeasureAnswer } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import {
  type HistogramIn,
  indexedOf,
  isInventoryVital,
  type Labels,
  lookBackOf,
  matcher,
  neededOfRollUps,
  type Plan,
  type Read,
  type SeriesIn,
  TOLD_EVERY,
} from '@zetopsis/core/measures';
import type { RolledSamples } from '@zetopsis/core/samples';
import { OBJECT_LABELS } from '@zetopsis/core/scouting';
import { type DurationMs, type EpochMs, MINUTE, type SeriesId } from '@zetopsis/core/units';
import { VITAL_LABELS, type Vital } from '@zetopsis/core/vitals';
import { LRUCache } from 'lru-cache';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { Pieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { ExemplarsService } from '../../keeping/store/exemplars.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { TIERS } from '../../keeping/store/tiers.ts';
import { InventoryReads } from './inventoryReads.service.ts';
import { MOST_SAMPLES, resolutionFor } from './resolution.ts';
import { SeenSeries, type Within } from './seenSeries.ts';
import { samplesBefore, seriesOf } from './seriesOf.ts';

const MOST_SERIES = 5000;
/** Measured values of buckets that are answered, of each part of the window. */
const EXAMPLES = { parts: 40, each: 5 };

/** Chooses the series that a measure reads, within somebody's grants, and reads them. */
@Injectable()
export class MeasureReading {
  private readonly begun = new LRUCache<number, EpochMs>({ max: 100_000, ttl: 10 * MINUTE });
  constructor(
    private readonly seen: SeenSeries,
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly connections: ConnectionsService,
    private readonly configuration: ConfigurationService,
    private readonly inventoryReads: InventoryReads,
    private readonly exemplars: ExemplarsService,
    private readonly clock: Clock,
  ) {}

  async read({
    reach,
    plan,
    times,
    within,
  }: {
    readonly reach: Reach;
    readonly plan: Plan;
    readonly times: Float64Array;
    readonly within: Within;
  }) {
    const [first, last] = [times[0]!, times.at(-1)!]; // there is one at least
    const chosen = await Promise.all(plan.reads.map((own) => this.choose(reach, own, within)));
    const ids = [...new Set(chosen.flatMap(({ list }) => list.map(({ id }) => id)))];
    if (ids.length > MOST_SERIES)
      throw new Refusal(
        'tooLarge',
        `This reads ${ids.length} series; ${MOST_SERIES} is the most. Narrow it with “where”, or look at one cluster or namespace.`,
      );
    const back = lookBackOf(plan.result);
    const { resolution, note } = resolutionFor({
      plan,
      times,
      oldest: first - back,
      now: this.clock.now(),
      intervals: ids.map((id) => this.seen.intervalOf(id)),
      kept: this.configuration.get('retention', 'kept')!, // always there
    });
    const bucket = resolution === 'samples' ? 0 : TIERS[resolution].bucket;
    const slowest = Math.max(bucket, ...ids.map((id) => this.seen.intervalOf(id)));
    const from = first - back - 6 * slowest;
    const beside = resolution === 'samples' ? undefined : neededOfRollUps(plan);
    const read = await samplesBefore(
      this.samples,
      { ids, from, to: last, resolution, beside },
      { begin: first - back, everyOf: (id) => Math.max(bucket, this.seen.intervalOf(id)) },
    );
    let samples = 0;
    for (const own of read.values()) samples += own.times.length;
    if (samples > MOST_SAMPLES)
      throw new Refusal(
        'tooLarge',
        `This reads ${samples} samples; ${MOST_SAMPLES} is the most. Choose a shorter window, fewer series, or a step and stretches of whole ${TIERS.five.bucket / 60_000} minutes, which roll-ups may answer.`,
      );
    const found = await this.found({
      reach,
      chosen,
      within,
      read,
      bucket,
      window: { from, begin: first - back, to: last },
      count: ids.length,
      samples,
    });
    const { series, histograms } = found;
    const notes = note === null ? [] : [note];
    const bucketIds = chosen.flatMap(({ list, buckets }) => (buckets ? list.map(({ id }) => id) : []));
    const clusters = new Set([...series.flat(), ...histograms.flat()].flatMap(({ labels }) => labels['cluster'] ?? []));
    return { ...found, resolution, notes, bucketIds, clusters, from };
  }
  /** What was chosen for each read, with what was kept of it. */
  private async found({
    reach,
    chosen,
    within,
    read,
    bucket,
    window: { from, begin, to },
    ...so
  }: {
    readonly reach: Reach;
    readonly chosen: readonly Chosen[];
    readonly within: Within;
    readonly read: ReadonlyMap<SeriesId, RolledSamples>;
    /** Of the roll-ups that it was read from; 0: samples. */
    readonly bucket: DurationMs;
    readonly window: { readonly from: EpochMs; readonly begin: EpochMs; readonly to: EpochMs };
    /** Series and samples so far. */
    readonly count: number;
    readonly samples: number;
  }) {
    let { count, samples } = so;
    const begun = await this.begunAt(chosen.flatMap(({ list }) => list.map(({ id }) => id)));
    const pieces = new Pieces();
    const series: SeriesIn[][] = [];
    const histograms: HistogramIn[][] = [];
    for (const { of, list, buckets } of chosen) {
      if (isKnown(of)) {
        const every = Math.max(TOLD_EVERY, bucket);
        const known = await this.known(
          { reach, read: of, within, from: begin - 6 * every, to, every },
          { series: MOST_SERIES - count, samples: MOST_SAMPLES - samples },
        );
        count += known.length;
        for (const { times: own } of known) samples += own.length;
        series.push(known);
        histograms.push([]);
        continue;
      }
      const own: SeriesIn[] = [];
      for (const { id, labels, factor } of list) {
        const found = read.get(id);
        if (!found || found.times.length === 0) continue;
        own.push(
          seriesOf({
            labels,
            found,
            factor,
            interval: this.seen.intervalOf(id),
            bucket,
            from,
            begun: begun.get(this.seen.endpointOf(id)) ?? null,
          }),
        );
        if (pieces.due) await pieces.pause();
      }
      series.push(buckets ? [] : own);
      histograms.push(buckets ? this.gathered(own) : []);
    }
    return { series, histograms, count, samples };
  }
  private async known(
    of: Omit<Parameters<InventoryReads['read']>[0], 'most'>,
    most: { readonly series: number; readonly samples: number },
  ): Promise<SeriesIn[]> {
    const known = await this.inventoryReads.read({ ...of, most });
    if (known !== null) return known;
    throw new Refusal(
      'tooLarge',
      `This reads more than ${MOST_SERIES} series or ${MOST_SAMPLES} samples. Narrow it with “where”, look at one cluster or namespace, or choose a shorter window.`,
    );
  }
  /** Since when each endpoint is read: a series that came later was lacked before. */
  private async begunAt(ids: readonly SeriesId[]): Promise<ReadonlyMap<number, EpochMs>> {
    const endpoints = [...new Set(ids.map((id) => this.seen.endpointOf(id)))];
    const asked = endpoints.filter((endpoint) => !this.begun.has(endpoint));
    if (asked.length > 0)
      for (const [endpoint, at] of await this.samples.firstReadingsAt(asked)) this.begun.set(endpoint, at);
    return new Map(
      endpoints.flatMap((endpoint) => {
        const at = this.begun.get(endpoint);
        return at === undefined ? [] : [[endpoint, at] as const];
      }),
    );
  }
  private async choose(reach: Reach, read: Read, within: Within): Promise<Chosen> {
    const { of, where, whateverTheScope } = read;
    const sees = this.seen.sees(reach, whateverTheScope ? { cluster: null, namespace: null } : within);
    const fits = matcher(where);
    const indexed = indexedOf(where);
    const pieces = new Pieces();
    const list: { id: SeriesId; labels: Labels; factor: number }[] = [];
    if (isKnown(read)) return { of: read, list, buckets: false };
    const take = async (
      ids: readonly SeriesId[],
      { factor = 1, bound = false, named = [] }: { factor?: number; bound?: boolean; named?: readonly Named[] } = {},
    ) => {
      for (const id of ids) {
        if (pieces.due) await pieces.pause();
        if (!sees(id)) continue;
        const labels = named.length === 0 ? this.seen.labels(id) : byConvention(this.seen.labels(id), named);
        // a histogram's bound is none of its labels
        if (fits(bound ? this.seen.withoutBound(labels) : labels)) list.push({ id, labels, factor });
      }
    };
    if (of.is === 'vital') {
      const vital = of.name as Vital; // it was checked
      for (const connection of this.connections.ids()) {
        const { factor, labels } = this.vitals.mapping(connection, vital);
        const named = namesOtherwise(labels);
        // what a mapping calls otherwise is in the index by its own name
        const renamed = new Set(named.map(([, convention]) => convention));
        const own = indexed.filter(({ label }) => !renamed.has(label));
        await take(this.vitals.select(connection, vital, {}, own), { factor, named });
      }
      return { of: read, list, buckets: false };
    }
    const info = this.seen.info(of.name);
    // where nothing bears its own name
    const buckets = info?.type === 'histogram' && this.seen.named(of.name).length === 0;
    await take(buckets ? this.seen.bucketsOf(of.name, indexed) : this.seen.named(of.name, indexed), { bound: buckets });
    return { of: read, list, buckets };
  }
  /** Buckets of one histogram together, by their labels but the bound. */
  private gathered(all: readonly SeriesIn[]): HistogramIn[] {
    const groups = new Map<string, { labels: Labels; parts: { bound: number; series: SeriesIn }[] }>();
    for (const series of all) {
      const labels = this.seen.withoutBound(series.labels);
      const bound = this.seen.boundOf(series.labels);
      if (Number.isNaN(bound)) continue;
      const key = JSON.stringify(labels);
      const own = groups.get(key) ?? { labels, parts: [] };
      groups.set(key, own);
      own.parts.push({ bound, series });
    }
    return [...groups.values()].map(({ labels, parts }) => {
      parts.sort((a, b) => a.bound - b.bound);
      return {
        labels,
        interval: Math.max(...parts.map(({ series }) => series.interval)),
        bounds: parts.map(({ bound }) => bound),
        parts: parts.map(({ series }) => series),
        exponential: false,
      };
    });
  }

  /** Measured values that lead to a trace, of buckets that were read. */
  async examples(ids: readonly SeriesId[], times: Float64Array): Promise<MeasureAnswer['examples']> {
    if (ids.length === 0) return [];
    const found = await this.exemplars.between([...new Set(ids.map((id) => this.seen.endpointOf(id)))], ids, {
      from: times[0]!,
      to: times.at(-1)!,
      ...EXAMPLES,
    });
    return found.map(({ at, value, labels }) => ({ at, value, labels: { ...labels } }));
  }
}

/** Series for a read, each with the factor to its vital's unit. */
interface Chosen {
  readonly of: Read;
  readonly list: readonly { readonly id: SeriesId; readonly labels: Labels; readonly factor: number }[];
  readonly buckets: boolean;
}
/** A label as a cluster has it, and as the conventions do. */
type Named = readonly [own: string, convention: string];
const CONVENTIONS: Readonly<Record<string, string>> = { ...VITAL_LABELS, pod: OBJECT_LABELS.pod };
/** Labels that a cluster has under other names: a vital is asked for by one name everywhere. */
const namesOtherwise = (labels: Readonly<Partial<Record<string, string>>>): Named[] =>
  Object.entries(labels).flatMap(([role, own]) => {
    const convention = CONVENTIONS[role];
    return own === undefined || convention === undefined || own === convention ? [] : [[own, convention] as const];
  });
function byConvention(labels: Labels, named: readonly Named[]): Labels {
  const own = { ...labels };
  for (const [name, convention] of named) if (own[name] !== undefined) own[convention] ??= own[name];
  return own;
}
/** What the inventory knows is made of its objects' states: no series of it is kept. */
const isKnown = ({ of }: Read): boolean => of.is === 'vital' && isInventoryVital(of.name);
