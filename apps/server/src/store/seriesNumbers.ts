import { createHash } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import type { FreshSeries, Page, PageMemory } from '@zetopsis/core/exposition';
import { Layout } from '@zetopsis/core/samples';
import { type Dress, dresser } from '@zetopsis/core/scouting';
import { type Labels, SeriesTable, seriesKey } from '@zetopsis/core/series';
import type { EpochMs, SeriesId } from '@zetopsis/core/units';
import { VITAL_LABELS } from '@zetopsis/core/usage';
import { SampleStore } from './sample.store.ts';

export interface SeriesLimits {
  readonly perEndpoint: number;
  readonly perTeam: number;
  readonly inAll: number;
}
type Bound = keyof SeriesLimits;

/** What a page's samples are, as they are stored: the series of those that are kept. */
export interface Shape {
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
  limits: SeriesLimits = { perEndpoint: 200_000, perTeam: 500_000, inAll: 2_000_000 };
  /** Told by who knows the endpoints: whose a series is. */
  teamOf: (endpoint: number, namespace: string) => string | null = () => null;
  private readonly shapes = new Map<number, KnownShape>();
  private readonly refusedBy = new Map<number, Refused>();
  private readonly dresses = new Map<number, ReturnType<typeof dresser>>();
  /** Series by endpoint and namespace. */
  private readonly spaces = new Map<number, Map<string, number>>();
  private perTeam: { at: number; counts: Map<string, number> } = { at: 0, counts: new Map() };
  /** New series get ascending numbers one reading after the other, as the table likes them. */
  private numbering: Promise<unknown> = Promise.resolve();

  constructor(private readonly store: SampleStore) {}

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
  private dressed(endpoint: number, fresh: readonly FreshSeries[], memory: PageMemory): readonly FreshSeries[] {
    const dressing = this.dresses.get(endpoint);
    if (!dressing) return fresh;
    return fresh.flatMap((series) => {
      const labels = dressing(series.name, series.labels);
      if (labels === null) memory.ids[series.slot] = DROPPED;
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
  async shapeOf(endpoint: number, page: Page, memory: PageMemory, at: EpochMs): Promise<Shape> {
    const known = this.shapes.get(endpoint);
    if (known?.slots === page.slots && known.memory === memory) {
      if (known.kept === null || known.limits === this.limits || this.refused(endpoint) === null) return known;
      memory.remember(null); // the limits are others now: the next page is looked at in full
      return known;
    }
    const refused = await this.number(endpoint, this.dressed(endpoint, page.fresh, memory), memory, at).catch(
      (error: unknown) => {
        memory.remember(null); // or the next page would name them no more, and they would never get a number
        throw error;
      },
    );
    if (page.fresh.length > 0 || known?.kept) this.noteRefused(endpoint, page, memory, refused);
    const { slots } = page;
    const ids = Int32Array.from(slots, (slot) => memory.ids[slot]!);
    const kept = ids.some((id) => id <= 0) ? Int32Array.from(ids.keys()).filter((i) => ids[i]! > 0) : null;
    const layout = new Layout(kept ? kept.map((i) => ids[i]!) : ids);
    const same =
      known && known.layout.ids.length === layout.ids.length && known.layout.ids.every((id, i) => id === layout.ids[i]);
    const shape: KnownShape = {
      slots,
      memory,
      kept,
      // what was refused before was so by the limits of then
      limits: page.fresh.length > 0 ? this.limits : (known?.limits ?? this.limits),
      layout: same ? known.layout : layout,
      layoutId: same ? known.layoutId : await this.layoutOf(endpoint, layout.ids),
    };
    this.shapes.set(endpoint, shape);
    return shape;
  }
  /** Some of a page's samples: those at these places. */
  async partOf(endpoint: number, page: Page, memory: PageMemory, places: Int32Array): Promise<Shape> {
    const ids = places.map((i) => memory.ids[page.slots[i]!]!);
    return { layout: new Layout(ids), layoutId: await this.layoutOf(endpoint, ids), kept: places };
  }
  private noteRefused(endpoint: number, page: Page, memory: PageMemory, fresh: Refused): void {
    let left = 0;
    for (const slot of new Set(page.slots)) if (memory.ids[slot] === 0) left++;
    if (left === 0) this.refusedBy.delete(endpoint);
    else {
      const bound = (Object.keys(fresh)[0] ??
        Object.keys(this.refusedBy.get(endpoint) ?? {})[0] ??
        'perEndpoint') as Bound; // keys of a Refused
      this.refusedBy.set(endpoint, { [bound]: left });
    }
  }

  /** Gives numbers to a page's new series, as far as the limits allow; answers how many got none. */
  private async number(
    endpoint: number,
    fresh: readonly FreshSeries[],
    memory: PageMemory,
    at: EpochMs,
  ): Promise<Refused> {
    const unknown = fresh.filter((series) => {
      const id = this.table.find(endpoint, series.name, series.labels);
      if (id !== undefined) memory.ids[series.slot] = id;
      return id === undefined;
    });
    if (unknown.length === 0) return {};
    const turn = this.numbering
      .catch(() => undefined)
      .then(async () => {
        const refused: Partial<Record<Bound, number>> = {};
        const taken = unknown.filter((series) => {
          if (this.table.find(endpoint, series.name, series.labels) !== undefined) return true;
          const bound = this.exceeded(endpoint, series.labels);
          if (bound) refused[bound] = (refused[bound] ?? 0) + 1;
          else this.count(endpoint, series.labels, 1);
          return bound === null;
        });
        const ids = await this.store.addSeries(
          endpoint,
          taken.map(({ key, name, labels, cumulative }) => ({
            identity: digest(key),
            metric: name,
            labels,
            cumulative,
          })),
          at,
        );
        const numbered = taken.map((series, i) => ({ series, id: ids[i]! })).sort((a, b) => a.id - b.id);
        for (const { series, id } of numbered) {
          this.table.add({ id, endpoint, metric: series.name, labels: series.labels, cumulative: series.cumulative });
          memory.ids[series.slot] = id;
        }
        return refused;
      });
    this.numbering = turn;
    return turn;
  }
  /** Numbers for series that come from elsewhere than a page: an import. Those past the limits, or dropped, are left out. */
  async numbersFor(endpoint: number, series: readonly FreshSeries[], at: EpochMs) {
    const memory = { ids: new Int32Array(series.length) } as PageMemory; // only the numbers are asked for
    const numbered = series.map((one, slot) => ({ ...one, slot }));
    const refused = await this.number(endpoint, this.dressed(endpoint, numbered, memory), memory, at);
    // dropped or refused: either way it has no number
    memory.ids.forEach((id, slot) => {
      if (id === DROPPED) memory.ids[slot] = 0;
    });
    return { ids: memory.ids, refused: Object.values(refused).reduce((sum, count) => sum + count, 0) };
  }

  private exceeded(endpoint: number, labels: Labels): Bound | null {
    if (this.table.size >= this.limits.inAll) return 'inAll';
    const own = [...(this.spaces.get(endpoint)?.values() ?? [])].reduce((sum, count) => sum + count, 0);
    if (own >= this.limits.perEndpoint) return 'perEndpoint';
    const team = this.teamOf(endpoint, namespaceOf(labels));
    return team !== null && this.countOfTeam(team) >= this.limits.perTeam ? 'perTeam' : null;
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

const namespaceOf = (labels: Labels): string => labels.find(([name]) => name === VITAL_LABELS.namespace)?.[1] ?? '';
