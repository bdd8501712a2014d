import { Injectable } from '@nestjs/common';
import { type MeasureAnswer, type MeasureInput, readPath } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import {
  type Body,
  type Catalogue,
  checkMeasure,
  INVENTORY_VITALS,
  inventoryVital,
  isInventoryVital,
  isNear,
  type Plan,
  parseMeasure,
  printMeasure,
  unitName,
} from '@zetopsis/core/measures';
import { VITAL_NAMES, vitalOf } from '@zetopsis/core/vitals';
import type { z } from 'zod';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { type Asker } from '../owners/keptForTeams.service.ts';
import { Evaluations } from './evaluations.service.ts';
import { MeasureReading } from './measureReading.service.ts';
import { ObjectTables } from './objectTables.service.ts';
import { momentsOf, wrongMeasure } from './resolution.ts';
import { SavedMeasures } from './savedMeasures.service.ts';
import { SeenSeries, type Within } from './seenSeries.ts';

type Input = z.infer<typeof MeasureInput>;

/** Own questions about what was read: checked, read within somebody's grants, worked out. */
@Injectable()
export class MeasuresService {
  constructor(
    private readonly seen: SeenSeries,
    private readonly numbers: SeriesNumbers,
    private readonly reading: MeasureReading,
    private readonly objects: ObjectTables,
    private readonly saved: SavedMeasures,
    private readonly evaluations: Evaluations,
    private readonly clock: Clock,
  ) {}

  /** As JSON in pieces of UTF-8: lines are written in the thread that worked them out. */
  async evaluate(asker: Asker, input: Input): Promise<readonly Uint8Array[]> {
    const { reach } = asker;
    const began = performance.now();
    const body = this.bodyOf(input);
    const plan = this.planOf(asker, body);
    const times = momentsOf(input, this.clock.now());
    const within = this.within(input.in);
    const read = await this.reading.read({ reach, plan, times, within });
    const examples = await this.reading.examples(read.bucketIds, times);
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
  /** As numbers, for who judges them. `longest`: it may take so long, ms. */
  async lines(asker: Asker, text: string, times: Float64Array, longest?: number) {
    const { reach } = asker;
    const plan = this.planOf(asker, this.bodyOf({ text }));
    const read = await this.reading.read({ reach, plan, times, within: { cluster: null, namespace: null } });
    const work = {
      plan,
      series: read.series,
      histograms: read.histograms,
      times,
      instant: false,
      objects: await this.objects.of(plan, read.clusters, { from: read.from, to: times.at(-1)! }),
      explain: false,
      all: true,
      read: read.count,
      judging: true as const,
    };
    const { judged, notes, nothing } = await this.evaluations.evaluate(work, longest);
    return {
      ...judged!, // it was asked for
      unit: unitName(plan.result.unit),
      shownAs: plan.shownAs,
      notes: [...plan.notes, ...notes, ...read.notes],
      nothing,
      resolution: read.resolution,
    };
  }
  private planOf(asker: Asker, body: Body): Plan {
    const checked = checkMeasure(body, this.catalogue(asker));
    if ('problem' in checked) throw wrongMeasure(checked.problem.text);
    return checked.plan;
  }
  /** What a saved text comes out in; where something that it needs is missing at present, that. */
  unitOf(asker: Asker, text: string): { readonly unit: string | null; readonly problem: string | null } {
    const { unit, shownAs, problem } = this.shownIn(asker, text);
    return { unit: shownAs ?? unit, problem };
  }
  shownIn(
    asker: Asker,
    text: string,
  ): {
    readonly unit: string | null;
    readonly shownAs: string | null;
    readonly problem: string | null;
  } {
    const unknown = { unit: null, shownAs: null };
    const read = parseMeasure(text);
    if (!('body' in read)) return { ...unknown, problem: read.problem.text };
    const checked = checkMeasure(read.body, this.catalogue(asker));
    if ('problem' in checked) return { ...unknown, problem: checked.problem.text };
    const { result, shownAs, notes } = checked.plan;
    return { unit: unitName(result.unit), shownAs, problem: notes[0] ?? null };
  }
  private bodyOf({ text, tree }: Pick<Input, 'text' | 'tree'>): Body {
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
}
