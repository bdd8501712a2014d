import type { Labels } from '../series/index.ts';

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
  /** The most first, at most so many of each. */
  census(most: number): Census {
    return {
      series: this.series,
      metrics: [...this.metrics]
        .sort(([a, { series: left }], [b, { series: right }]) => right - left || (a < b ? -1 : 1))
        .slice(0, most)
        .map(([name, own]) => {
          const [widest] = [...own.labels].sort(([, a], [, b]) => b.size - a.size);
          return {
            name,
            series: own.series,
            label: widest?.[0] ?? null,
            values: widest?.[1].size ?? 0,
            endpoints: own.endpoints.size,
          };
        }),
      labels: [...this.labels]
        .map(([name, own]) => ({ name, series: own.series, values: own.values.size }))
        .sort((a, b) => b.values - a.values || (a.name < b.name ? -1 : 1))
        .slice(0, most),
      endpoints: this.endpoints,
    };
  }
}
function noted<V>(map: Map<string, V>, key: string, make: () => V): V {
  const known = map.get(key);
  if (known !== undefined) return known;
  const made = make();
  map.set(key, made);
  return made;
}
