import { Injectable } from '@nestjs/common';
import { type MeasureAnswer, type MeasureInput, readPath } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import {
  type Body,
  type Catalogue,
  checkMeasure,
  type HistogramIn,
  INVENTORY_VITALS,
  inventoryVital,
  isInventoryVital,
  isNear,
  type Labels,
  lookBackOf,
  matcher,
  neededOfRollUps,
  type Plan,
  parseMeasure,
  printMeasure,
  type Read,
  type SeriesIn,
  TOLD_EVERY,
  unitName,
} from '@zetopsis/core/measures';
import { OBJECT_LABELS } from '@zetopsis/core/scouting';
import { type EpochMs, type SeriesId } from '@zetopsis/core/units';
import { VITAL_LABELS, VITAL_NAMES, type Vital, vitalOf } from '@zetopsis/core/vitals';
import type { z } from 'zod';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { Pieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { ExemplarsService } from '../../keeping/store/exemplars.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { TIERS } from '../../keeping/store/tiers.ts';
import { Evaluations } from './evaluations.service.ts';
import { InventoryReads } from './inventoryReads.service.ts';
import { ObjectTables } from './objectTables.service.ts';
import { MOST_SAMPLES, momentsOf, resolutionFor, wrongMeasure } from './resolution.ts';
import { type Asker, SavedMeasures } from './savedMeasures.service.ts';
import { SeenSeries, type Within } from './seenSeries.ts';
import { samplesBefore, seriesOf } from './seriesOf.ts';

type Input = z.infer<typeof MeasureInput>;
const MOST_SERIES = 5000;
/** Measured values of buckets that are answered, of each part of the window. */
const EXAMPLES = { parts: 40, each: 5 };

/** Own questions about what was read: checked, read within somebody's grants, worked out. */
@Injectable()
export class MeasuresService {
  constructor(
    private readonly seen: SeenSeries,
    private readonly numbers: SeriesNumbers,
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly connections: ConnectionsService,
    private readonly configuration: ConfigurationService,
    private readonly inventoryReads: InventoryReads,
    private readonly objects: ObjectTables,
    private readonly saved: SavedMeasures,
    private readonly evaluations: Evaluations,
    private readonly exemplars: ExemplarsService,
    private readonly clock: Clock,
  ) {}

  /** As JSON in pieces of UTF-8: lines are written in the thread that worked them out. */
  async evaluate(asker: Asker, input: Input): Promise<readonly Uint8Array[]> {
    const { reach } = asker;
    const began = performance.now();
    const body = this.bodyOf(input);
    const checked = checkMeasure(body, this.catalogue(asker));
    if ('problem' in checked) throw wrongMeasure(checked.problem.text);
    const { plan } = checked;
    const times = momentsOf(input, this.clock.now());
    const within = this.within(input.in);
    const read = await this.read({ reach, plan, times, within });
    const examples = await this.examples(read.bucketIds, times);
    const { lines, steps, notes, nothing } = await this.evaluations.evaluate({
      plan,
      series: read.series,
      histograms: read.histograms,
      times,
      instant: input.at !== undefined,
      objects: await this.objects.of(plan, read.clusters, { from: read.from, to: times.at(-1)! }),
      explain: input.explain,
      all: input.all,
      read: read.count,
    });
    const rest: Omit<MeasureAnswer, 'series' | 'left' | 'steps'> = {
      text: printMeasure(body),
      shownAs: plan.shownAs,
      read: { series: read.count, samples: read.samples, resolution: read.resolution },
      notes: [...plan.notes, ...notes, ...read.notes],
      nothing,
      examples,
      took: performance.now() - began,
    };
    const written = (text: string) => new TextEncoder().encode(text);
    return [written(`${JSON.stringify(rest).slice(0, -1)},`), ...lines, written(`,"steps":${steps}}`)];
  }
  /** What a saved text comes out in; where something that it needs is missing at present, that. */
  unitOf(asker: Asker, text: string): { readonly unit: string | null; readonly problem: string | null } {
    const read = parseMeasure(text);
    if (!('body' in read)) return { unit: null, problem: read.problem.text };
    const checked = checkMeasure(read.body, this.catalogue(asker));
    if ('problem' in checked) return { unit: null, problem: checked.problem.text };
    const { result, shownAs, notes } = checked.plan;
    return { unit: shownAs ?? unitName(result.unit), problem: notes[0] ?? null };
  }
  private bodyOf({ text, tree }: Input): Body {
    if (tree !== undefined) return tree;
    const parsed = parseMeasure(text ?? '');
    if ('body' in parsed) return parsed.body;
    const { at, text: words, nearest } = parsed.problem;
    const place = at === null ? '' : `line ${at.line}, column ${at.column}: `;
    throw wrongMeasure(`${place}${words}${nearest === null ? '' : `; “${nearest}” is the nearest`}`);
  }
  /** What somebody may see: a name that only others have is as one that nobody has. */
  private catalogue(asker: Asker): Catalogue {
    const { reach } = asker;
    const sees = this.seen.sees(reach, { cluster: null, namespace: null });
    const visible = (metric: string) => this.seen.named(metric).some(sees) || this.seen.bucketsOf(metric).some(sees);
    return {
      metric: (name) => (visible(name) ? this.seen.info(name) : null),
      metrics: (like) => this.metricNames(reach, like),
      vital: (name) => {
        if (isInventoryVital(name)) return inventoryVital(name);
        const vital = VITAL_NAMES.find((one) => one === name);
        if (vital === undefined) return null;
        const { counts, unit } = vitalOf(vital);
        return { type: counts ? 'counter' : 'gauge', unit: unit === 'seconds' || unit === 'bytes' ? unit : null };
      },
      vitals: () => [...VITAL_NAMES, ...INVENTORY_VITALS],
      measure: (title) => this.saved.bodyOf(asker, title),
      measures: () => this.saved.titles(asker),
    };
  }
  private *metricNames(reach: Reach, like: string): Generator<string> {
    const sees = this.seen.sees(reach, { cluster: null, namespace: null });
    for (let i = 0; ; i++) {
      const name = this.numbers.table.metricAt(i);
      if (name === undefined) return;
      if (isNear(name, like) && this.seen.named(name).some(sees)) yield name;
    }
  }
  private within(parts: readonly string[]): Within {
    const path = readPath(parts);
    if (path?.is === 'everything') return { cluster: null, namespace: null };
    if (path?.is === 'cluster') return { cluster: path.cluster, namespace: null };
    if (path?.is === 'namespace') return { cluster: path.cluster, namespace: path.namespace };
    throw new Refusal('invalid', 'A measure looks at everything, at a cluster, or at a namespace in one.');
  }

  // ---- reading ------------------------------------------------------------------------------------------------------

  private async read({
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
    const read = await samplesBefore(this.samples, { ids, from, to: last, resolution, beside }, first - back);
    let samples = 0;
    for (const own of read.values()) samples += own.times.length;
    if (samples > MOST_SAMPLES)
      throw new Refusal(
        'tooLarge',
        `This reads ${samples} samples; ${MOST_SAMPLES} is the most. Choose a shorter window, fewer series, or a step and stretches of whole ${TIERS.five.bucket / 60_000} minutes, which roll-ups may answer.`,
      );
    let count = ids.length;
    const begun = await this.begunAt(ids);
    const pieces = new Pieces();
    const series: SeriesIn[][] = [];
    const histograms: HistogramIn[][] = [];
    for (const { of, list, buckets } of chosen) {
      if (isKnown(of)) {
        const every = Math.max(TOLD_EVERY, bucket);
        const known = await this.known(
          { reach, read: of, within, from: first - back - 6 * every, to: last, every },
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
    const notes = note === null ? [] : [note];
    const bucketIds = chosen.flatMap(({ list, buckets }) => (buckets ? list.map(({ id }) => id) : []));
    const clusters = new Set([...series.flat(), ...histograms.flat()].flatMap(({ labels }) => labels['cluster'] ?? []));
    return { series, histograms, count, samples, resolution, notes, bucketIds, clusters, from };
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
  private async begunAt(ids: readonly SeriesId[]): Promise<ReadonlyMap<number, EpochMs | null>> {
    const endpoints = [...new Set(ids.map((id) => this.seen.endpointOf(id)))];
    return new Map(
      await Promise.all(
        endpoints.map(async (endpoint) => [endpoint, await this.samples.firstReadingAt(endpoint)] as const),
      ),
    );
  }
  private async choose(reach: Reach, read: Read, within: Within) {
    const { of, where, whateverTheScope } = read;
    const sees = this.seen.sees(reach, whateverTheScope ? { cluster: null, namespace: null } : within);
    const fits = matcher(where);
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
        await take(this.vitals.select(connection, vital), { factor, named: namesOtherwise(labels) });
      }
      return { of: read, list, buckets: false };
    }
    const own = this.seen.named(of.name);
    const buckets = own.length === 0 && this.seen.info(of.name)?.type === 'histogram';
    await take(buckets ? this.seen.bucketsOf(of.name) : own, { bound: buckets });
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
  private async examples(ids: readonly SeriesId[], times: Float64Array): Promise<MeasureAnswer['examples']> {
    if (ids.length === 0) return [];
    const found = await this.exemplars.between([...new Set(ids.map((id) => this.seen.endpointOf(id)))], ids, {
      from: times[0]!,
      to: times.at(-1)!,
      ...EXAMPLES,
    });
    return found.map(({ at, value, labels }) => ({ at, value, labels: { ...labels } }));
  }
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
