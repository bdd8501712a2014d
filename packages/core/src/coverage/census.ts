import type { Labels } from '../series/index.ts';
import { firstOf } from '../steps/index.ts';

export interface CensusSeries {
  readonly endpoint: number;
  readonly metric: string;
  readonly labels: Labels;
}
export interface MetricCount {
  readonly name: string;
  readonly series: number;
  /** The label with the most values, and how many. */
  readonly label: string | null;
  readonly values: number;
  readonly endpoints: number;
}
export interface Census {
  readonly series: number;
  readonly metrics: readonly MetricCount[];
  readonly labels: readonly { readonly name: string; readonly series: number; readonly values: number }[];
  readonly endpoints: ReadonlyMap<number, number>;
}

/** Who holds how many series: by metric, by label, by endpoint. Counted one by one, since there may be millions. */
export class CensusCount {
  private readonly metrics = new Map<
    string,
    { series: number; endpoints: Set<number>; labels: Map<string, Set<string>> }
  >();
  private readonly labels = new Map<string, { series: number; values: Set<string> }>();
  private readonly endpoints = new Map<number, number>();
  private series = 0;

  add(one: CensusSeries): void {
    this.series++;
    this.endpoints.set(one.endpoint, (this.endpoints.get(one.endpoint) ?? 0) + 1);
    const metric = noted(this.metrics, one.metric, () => ({ series: 0, endpoints: new Set(), labels: new Map() }));
    metric.series++;
    metric.endpoints.add(one.endpoint);
    for (const [name, value] of one.labels) {
      noted(metric.labels, name, () => new Set<string>()).add(value);
      const label = noted(this.labels, name, () => ({ series: 0, values: new Set<string>() }));
      label.series++;
      label.values.add(value);
    }
  }
  /**
   * The most first, at most so many of each, of those whose name `find` is part of; found step by step, since their names are
   * a stranger's, too.
   */
  *census(most: number, find = ''): Generator<void, Census> {
    const wanted = find.toLowerCase();
    const metrics = yield* firstOf(
      named(this.metrics, wanted),
      most,
      ([a, { series: left }], [b, { series: right }]) => right - left || (a < b ? -1 : 1),
    );
    const labels = yield* firstOf(
      named(this.labels, wanted),
      most,
      ([a, { values: left }], [b, { values: right }]) => right.size - left.size || (a < b ? -1 : 1),
    );
    const counts: MetricCount[] = [];
    for (const [name, { series, endpoints, labels: own }] of metrics) {
      const [widest] = yield* firstOf(own, 1, ([, a], [, b]) => b.size - a.size);
      counts.push({
        name,
        series,
        label: widest?.[0] ?? null,
        values: widest?.[1].size ?? 0,
        endpoints: endpoints.size,
      });
    }
    return {
      series: this.series,
      metrics: counts,
      labels: labels.map(([name, { series, values }]) => ({ name, series, values: values.size })),
      endpoints: this.endpoints,
    };
  }
}
function* named<V>(map: ReadonlyMap<string, V>, wanted: string): Generator<[string, V]> {
  for (const entry of map) if (wanted === '' || entry[0].toLowerCase().includes(wanted)) yield entry;
}
function noted<V>(map: Map<string, V>, key: string, make: () => V): V {
  const known = map.get(key);
  if (known !== undefined) return known;
  const made = make();
  map.set(key, made);
  return made;
}
