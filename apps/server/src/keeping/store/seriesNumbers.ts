import { createHash } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import type { FreshSeries, Page, PageMemory } from '@zetopsis/core/exposition';
import { Layout } from '@zetopsis/core/samples';
import { type Dress, dresser } from '@zetopsis/core/scouting';
import { type Labels, SeriesTable, seriesKey } from '@zetopsis/core/series';
import type { EpochMs, SeriesId } from '@zetopsis/core/units';
import pLimit from 'p-limit';
import { namespaceOf, Planned } from './plannedSeries.ts';
import { SampleStore } from './sample.store.ts';
import { type Bound, type SeriesLimits, StoreLimits } from './storeLimits.ts';

/** What a page's samples are, as they are stored: the series of those that are kept. */
export interface Shape {
  /** By place in the page; 0 or less where a sample is not kept. */
  readonly ids: Int32Array;
  readonly layout: Layout;
  readonly layoutId: number;
  /** Places of the kept samples in the page; null when all are. */
  readonly kept: Int32Array | null;
}
interface KnownShape extends Shape {
  readonly slots: Int32Array;
  readonly memory: PageMemory;
  readonly limits: SeriesLimits;
}
/** The series of a page, some of which have no number yet. Stands by itself: the page's memory goes on without it. */
export interface Unnamed {
  readonly slots: Int32Array;
  readonly memory: PageMemory;
  /** By place; 0 where it has none. */
  readonly ids: Int32Array;
  /** Those that are to be given one, by slot. */
  readonly fresh: readonly FreshSeries[];
  /** The page named something for the first time: what exceeds a limit is counted anew. */
  readonly changed: boolean;
}
/** Series of an endpoint that are not kept, by the limit that they exceed. */
export type Refused = Readonly<Partial<Record<Bound, number>>>;

const digest = (text: string) => createHash('sha256').update(text).digest().subarray(0, 16);
const COUNTED_FOR = 10_000;
/** In place of the number of a series that a drop rule names. */
const DROPPED = -1;

/** Numbers of series and of layouts. A series that would exceed a limit gets none, and its samples are not kept. */
@Injectable()
export class SeriesNumbers {
  readonly table = new SeriesTable();
  private whose: (endpoint: number, namespace: string) => string | null = () => null;
  private readonly shapes = new Map<number, KnownShape>();
  private readonly refusedBy = new Map<number, Refused>();
  private readonly dresses = new Map<number, ReturnType<typeof dresser>>();
  /** Series by endpoint and namespace. */
  private readonly spaces = new Map<number, Map<string, number>>();
  private perTeam: { at: number; counts: Map<string, number> } = { at: 0, counts: new Map() };
  /** Series of a page's memory that have no number yet, by slot: PostgreSQL was away when they were named. */
  private readonly unnumbered = new WeakMap<PageMemory, Map<number, FreshSeries>>();
  /** New series get ascending numbers one reading after the other, as the table likes them. */
  private readonly inOrder = pLimit(1);

  constructor(
    private readonly store: SampleStore,
    private readonly bounds: StoreLimits,
  ) {}
  /** Who knows owners says whose a series of an endpoint is that lies in a namespace; until then it is nobody's. */
  onTeam(whose: (endpoint: number, namespace: string) => string | null): void {
    this.whose = whose;
  }
  teamOf(endpoint: number, namespace: string): string | null {
    return this.whose(endpoint, namespace);
  }

  async load(): Promise<void> {
    await this.store.eachSeries((series) => {
      if (this.table.has(series.id)) return;
      this.table.add(series);
      this.count(series.endpoint, series.labels, 1);
    });
  }

  /** Labels to attach to an endpoint's series, and which of them are not kept. Holds for pages with a fresh memory. */
  dress(endpoint: number, dress: Dress): void {
    const plain = Object.keys(dress.attach).length === 0 && dress.drop.length === 0;
    if (plain) this.dresses.delete(endpoint);
    else this.dresses.set(endpoint, dresser(dress));
  }
  /** As they are kept; those that are dropped are marked in the memory. */
  private dressed(endpoint: number, fresh: readonly FreshSeries[], ids: Int32Array): readonly FreshSeries[] {
    const dressing = this.dresses.get(endpoint);
    if (!dressing) return fresh;
    return fresh.flatMap((series) => {
      const labels = dressing(series.name, series.labels);
      if (labels === null) ids[series.slot] = DROPPED;
      return labels === null ? [] : [{ ...series, labels, key: seriesKey(series.name, labels) }];
    });
  }

  refused(endpoint: number): Refused | null {
    return this.refusedBy.get(endpoint) ?? null;
  }
  get refusedInAll(): number {
    let sum = 0;
    for (const refused of this.refusedBy.values()) for (const count of Object.values(refused)) sum += count;
    return sum;
  }
  countOfTeam(team: string): number {
    return this.teamCounts().get(team) ?? 0;
  }

  /** While a page keeps its shape nothing is looked up. */
  async shapeOf({
    endpoint,
    page,
    memory,
    at,
  }: {
    readonly endpoint: number;
    readonly page: Page;
    readonly memory: PageMemory;
    readonly at: EpochMs;
  }): Promise<Shape> {
    return this.knownShape(endpoint, page, memory) ?? this.name(endpoint, this.unnamed(endpoint, page, memory), at);
  }
  knownShape(endpoint: number, page: Page, memory: PageMemory): Shape | null {
    const known = this.shapes.get(endpoint);
    if (known?.slots !== page.slots || known.memory !== memory) return null;
    if (known.kept !== null && known.limits !== this.bounds.series && this.refused(endpoint) !== null)
      memory.remember(null); // the limits are others now: the next page is looked at in full
    return known;
  }
  /** What a page's series are by now, and which of them wait for a number, from this page or from those before it. */
  unnamed(endpoint: number, page: Page, memory: PageMemory): Unnamed {
    const waiting = this.unnumbered.get(memory) ?? new Map<number, FreshSeries>();
    for (const series of this.dressed(endpoint, page.fresh, memory.ids)) waiting.set(series.slot, series);
    const here = new Set<number>();
    for (const slot of page.slots) if (memory.ids[slot] === 0) here.add(slot);
    for (const [slot, series] of waiting) {
      const id = this.table.find(endpoint, series.name, series.labels);
      if (id !== undefined && here.has(slot)) memory.ids[slot] = id;
      if (id !== undefined || !here.has(slot)) waiting.delete(slot);
    }
    if (waiting.size > 0) this.unnumbered.set(memory, waiting);
    else this.unnumbered.delete(memory);
    return {
      slots: page.slots,
      memory,
      ids: Int32Array.from(page.slots, (slot) => memory.ids[slot]!),
      fresh: [...waiting.values()],
      changed: page.fresh.length > 0,
    };
  }
  /** Gives a page's series their numbers, as far as the limits allow. Until that has worked, nothing is counted. */
  async name(endpoint: number, { slots, memory, ids: before, fresh, changed }: Unnamed, at: EpochMs): Promise<Shape> {
    const known = this.shapes.get(endpoint);
    const { ids: given, refused } = await this.number(endpoint, fresh, at);
    const numbers = new Map(fresh.map(({ slot }, i) => [slot, given[i]!]));
    const ids = before.map((id, place) => (id === 0 ? (numbers.get(slots[place]!) ?? 0) : id));
    const kept = ids.some((id) => id <= 0) ? Int32Array.from(ids.keys()).filter((i) => ids[i]! > 0) : null;
    const layout = new Layout(kept ? kept.map((i) => ids[i]!) : ids);
    const same =
      known && known.layout.ids.length === layout.ids.length && known.layout.ids.every((id, i) => id === layout.ids[i]);
    const layoutId = same ? known.layoutId : await this.layoutOf(endpoint, layout.ids);
    // from here on nothing fails; a memory that went on meanwhile is told of the numbers by its next page
    if (memory.slots === slots) {
      for (const [slot, id] of numbers) if (memory.ids[slot] === 0) memory.ids[slot] = id;
      this.unnumbered.delete(memory);
    }
    if (changed || known?.kept) this.noteRefused({ endpoint, slots, ids, fresh: refused });
    const shape: KnownShape = {
      slots,
      memory,
      ids,
      kept,
      // what was refused before was so by the limits of then
      limits: changed ? this.bounds.series : (known?.limits ?? this.bounds.series),
      layout: same ? known.layout : layout,
      layoutId,
    };
    this.shapes.set(endpoint, shape);
    return shape;
  }
  /** Some of a page's samples: those at these places. */
  async partOf(endpoint: number, shape: Shape, places: Int32Array): Promise<Shape> {
    const ids = places.map((i) => shape.ids[i]!);
    return { ids: shape.ids, layout: new Layout(ids), layoutId: await this.layoutOf(endpoint, ids), kept: places };
  }
  private noteRefused({
    endpoint,
    slots,
    ids,
    fresh,
  }: {
    readonly endpoint: number;
    readonly slots: Int32Array;
    readonly ids: Int32Array;
    readonly fresh: Refused;
  }): void {
    const left = new Set<number>();
    ids.forEach((id, place) => {
      if (id === 0) left.add(slots[place]!);
    });
    if (left.size === 0) this.refusedBy.delete(endpoint);
    else {
      const bound = (Object.keys(fresh)[0] ??
        Object.keys(this.refusedBy.get(endpoint) ?? {})[0] ??
        'perEndpoint') as Bound; // keys of a Refused
      this.refusedBy.set(endpoint, { [bound]: left.size });
    }
  }

  /** Numbers of series in their order, 0 for those that the limits do not allow, and how many those are. */
  private async number(
    endpoint: number,
    fresh: readonly FreshSeries[],
    at: EpochMs,
  ): Promise<{ ids: Int32Array; refused: Refused }> {
    const find = ({ name, labels }: FreshSeries) => this.table.find(endpoint, name, labels);
    const ids = Int32Array.from(fresh, (series) => find(series) ?? 0);
    if (!ids.includes(0)) return { ids, refused: {} };
    return this.inOrder(async () => {
      const refused: Partial<Record<Bound, number>> = {};
      const planned = new Planned(this.tallyOf(endpoint));
      const taken: { series: FreshSeries; place: number }[] = [];
      fresh.forEach((series, place) => {
        const known = find(series);
        if (known !== undefined) ids[place] = known;
        else {
          const team = this.teamOf(endpoint, namespaceOf(series.labels));
          const bound = planned.exceeded(this.bounds.series, team, () => this.countOfTeam(team!));
          if (bound) refused[bound] = (refused[bound] ?? 0) + 1;
          else taken.push({ series, place });
        }
      });
      const given = await this.store.addSeries(
        endpoint,
        taken.map(({ series: { key, name, labels, cumulative } }) => ({
          identity: digest(key),
          metric: name,
          labels,
          cumulative,
        })),
        at,
      );
      const numbered = taken.map((one, i) => ({ ...one, id: given[i]! })).sort((a, b) => a.id - b.id);
      for (const { series, place, id } of numbered) {
        ids[place] = id;
        if (this.table.has(id)) continue; // a page that names a series twice
        this.table.add({ id, endpoint, metric: series.name, labels: series.labels, cumulative: series.cumulative });
        this.count(endpoint, series.labels, 1);
      }
      return { ids, refused };
    });
  }
  /** Numbers for series that come from elsewhere than a page: an import. Those past the limits, or dropped, are left out. */
  async numbersFor(endpoint: number, series: readonly FreshSeries[], at: EpochMs) {
    const out = new Int32Array(series.length);
    const kept = this.dressed(
      endpoint,
      series.map((one, slot) => ({ ...one, slot })),
      out,
    );
    const { ids, refused } = await this.number(endpoint, kept, at);
    kept.forEach(({ slot }, i) => {
      out[slot] = ids[i]!;
    });
    // dropped or refused: either way it has no number
    return {
      ids: out.map((id) => Math.max(id, 0)),
      refused: Object.values(refused).reduce((sum, count) => sum + count, 0),
    };
  }

  private tallyOf(endpoint: number): { readonly inAll: number; readonly own: number } {
    let own = 0;
    for (const count of this.spaces.get(endpoint)?.values() ?? []) own += count;
    return { inAll: this.table.size, own };
  }
  private count(endpoint: number, labels: Labels, by: number): void {
    const namespace = namespaceOf(labels);
    let spaces = this.spaces.get(endpoint);
    if (!spaces) {
      spaces = new Map();
      this.spaces.set(endpoint, spaces);
    }
    spaces.set(namespace, (spaces.get(namespace) ?? 0) + by);
    const team = this.perTeam.at === 0 ? null : this.teamOf(endpoint, namespace);
    if (team !== null) this.perTeam.counts.set(team, (this.perTeam.counts.get(team) ?? 0) + by);
  }
  private teamCounts(): Map<string, number> {
    const now = performance.now();
    if (this.perTeam.at === 0 || now - this.perTeam.at > COUNTED_FOR) {
      const counts = new Map<string, number>();
      for (const [endpoint, spaces] of this.spaces)
        for (const [namespace, count] of spaces) {
          const team = this.teamOf(endpoint, namespace);
          if (team !== null) counts.set(team, (counts.get(team) ?? 0) + count);
        }
      this.perTeam = { at: now, counts };
    }
    return this.perTeam.counts;
  }

  /** Series of an endpoint by metric. */
  metricsOf(endpoint: number): Map<string, SeriesId[]> {
    const metrics = new Map<string, SeriesId[]>();
    for (const { id, endpoint: own, metric } of this.table.all()) {
      if (own !== endpoint) continue;
      const list = metrics.get(metric);
      if (list) list.push(id);
      else metrics.set(metric, [id]);
    }
    return metrics;
  }

  /** Metrics of which all series were born after a moment, and those of which all have ended after it. */
  metricsChangedSince(at: EpochMs, most: number): Promise<{ came: string[]; went: string[] }> {
    return this.store.metricsChangedSince(at, most);
  }

  private async layoutOf(endpoint: number, ids: Int32Array): Promise<number> {
    return this.store.addLayout(endpoint, digest(ids.join(',')), ids);
  }
  get layoutsInUse(): number[] {
    return [...this.shapes.values()].map(({ layoutId }) => layoutId);
  }

  /** Forgets series that ended before a moment, some thousands at a time; answers whether there were any. */
  async forgetSomeEndedBefore(before: EpochMs): Promise<boolean> {
    const ids = await this.store.removeSeriesEndedBefore(before);
    this.remove(ids);
    return ids.length > 0;
  }
  private remove(ids: readonly SeriesId[]): void {
    for (const id of ids) {
      const endpoint = this.table.endpointOf(id);
      if (endpoint === undefined) continue;
      this.count(endpoint, this.table.labels(id), -1);
      this.table.remove(id);
    }
  }
  forget(endpoint: number): void {
    this.table.forget(endpoint);
    this.shapes.delete(endpoint);
    this.refusedBy.delete(endpoint);
    this.spaces.delete(endpoint);
  }
}
