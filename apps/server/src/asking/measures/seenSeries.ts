import { Injectable } from '@nestjs/common';
import type { Reach } from '@zetopsis/core/access';
import { BOUND_LABEL } from '@zetopsis/core/answered';
import { LINK_LABELS } from '@zetopsis/core/links';
import type { Labels, MetricInfo } from '@zetopsis/core/measures';
import type { LabelMatch } from '@zetopsis/core/series';
import type { DurationMs, SeriesId } from '@zetopsis/core/units';
import { VITAL_LABELS } from '@zetopsis/core/vitals';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { KnownEndpoints } from '../../inflow/scraping/knownEndpoints.ts';
import { LINKS_SENDER, WIRES_SENDER } from '../../inflow/scraping/plans.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';

const BUCKET = '_bucket';
/** Labels that say where both ends of a link stand. */
const LINK_ENDS = [
  [LINK_LABELS[0], LINK_LABELS[1]],
  [LINK_LABELS[3], LINK_LABELS[4]],
] as const;
/** What names end in where pages say their unit by it. */
const UNITS: readonly (readonly [ending: RegExp, unit: string])[] = [
  [/_seconds(_total|_sum|_bucket)?$/, 'seconds'],
  [/_bytes(_total|_sum|_bucket)?$/, 'bytes'],
];
const unitOf = (metric: string): string | null => UNITS.find(([ending]) => ending.test(metric))?.[1] ?? null;
/** How far apart what is pushed comes, where nothing says. */
const PUSHED_APART: DurationMs = 60_000;

/** Where somebody looks: everything, a cluster, a namespace in it. */
export interface Within {
  readonly cluster: string | null;
  readonly namespace: string | null;
}
/** Series as somebody may see them: by the cluster that they were read in, and the namespace that they speak of. */
@Injectable()
export class SeenSeries {
  constructor(
    private readonly numbers: SeriesNumbers,
    private readonly connections: ConnectionsService,
    private readonly knownEndpoints: KnownEndpoints,
  ) {}

  /** Null where nothing bears the name; what others may see is not looked at. */
  info(metric: string): MetricInfo | null {
    const [first] = this.numbers.table.select(metric);
    if (first !== undefined)
      return { type: this.numbers.table.isCumulative(first) ? 'counter' : 'gauge', unit: unitOf(metric) };
    const [bucket] = this.numbers.table.select(`${metric}${BUCKET}`);
    return bucket === undefined ? null : { type: 'histogram', unit: unitOf(metric) };
  }
  /** What the page says of it that a series was read from last. */
  saidOf(metric: string, id: SeriesId): { readonly help: string; readonly unit: string } {
    const families = this.knownEndpoints.get(this.endpointOf(id))?.status.last?.page.families;
    const family = families?.get(metric) ?? families?.get(metric.replace(/_(total|bucket|sum|count|created)$/, ''));
    return { help: family?.help ?? '', unit: family?.unit ?? '' };
  }
  /** The endpoints of some series in words: the first by its name, and how many more there are. */
  fromWords(ids: readonly SeriesId[]): string {
    const endpoints = [...new Set(ids.map((id) => this.endpointOf(id)))];
    const names = [
      ...new Set(endpoints.map((one) => this.knownEndpoints.get(one)?.plan.name ?? 'an endpoint that is gone')),
    ];
    return `${names[0] ?? ''}${names.length > 1 ? ` and ${names.length - 1} more` : ''}`;
  }
  bucketsOf(metric: string, matches: readonly LabelMatch[] = []): SeriesId[] {
    return this.numbers.table.select(`${metric}${BUCKET}`, matches);
  }
  named(metric: string, matches: readonly LabelMatch[] = []): SeriesId[] {
    return this.numbers.table.select(metric, matches);
  }

  private clusterOf(id: SeriesId): string | null {
    const connection = this.knownEndpoints.connectionOf.get(this.numbers.table.endpointOf(id) ?? -1);
    return connection === undefined ? null : this.connections.nameOf(connection);
  }
  /** Whether somebody may see a series, and looks where it is. */
  sees(reach: Reach, within: Within): (id: SeriesId) => boolean {
    const sees = this.seesIn(reach, within);
    const seesLink = this.seesLink(reach, within);
    return (id) =>
      this.isOfLinks(id)
        ? seesLink(id)
        : sees(this.clusterOf(id), this.numbers.table.label(id, VITAL_LABELS.namespace));
  }
  private isOfLinks(id: SeriesId): boolean {
    const plan = this.knownEndpoints.get(this.endpointOf(id))?.plan;
    return plan?.kind === 'pushed' && (plan.name === LINKS_SENDER || plan.name === WIRES_SENDER);
  }
  /** A link names both of its ends: whoever may not see one of them sees its sums on the map. One is where somebody looks. */
  private seesLink(reach: Reach, within: Within): (id: SeriesId) => boolean {
    const everywhere = reach.mayEverywhere('read');
    return (id) => {
      const [from, to] = LINK_ENDS.map(([cluster, namespace]) => ({
        cluster: this.numbers.table.label(id, cluster),
        namespace: this.numbers.table.label(id, namespace),
      }));
      const ends = [from!, to!]; // there are two
      const inScope = ends.some(
        ({ cluster, namespace }) =>
          (within.cluster === null || cluster === within.cluster) &&
          (within.namespace === null || namespace === within.namespace),
      );
      if (!inScope || everywhere) return inScope;
      const inClusters = ends.filter(({ cluster }) => cluster !== '');
      return inClusters.length > 0 && inClusters.every(({ cluster, namespace }) => reach.reads(cluster, namespace));
    };
  }
  /** The same of what a cluster's namespace has; '' is what is in none. */
  seesIn(reach: Reach, within: Within): (cluster: string | null, namespace: string) => boolean {
    return (cluster, namespace) => {
      if (within.cluster !== null && cluster !== within.cluster) return false;
      if (within.namespace !== null && namespace !== within.namespace) return false;
      if (cluster === null) return reach.mayEverywhere('read');
      return reach.whole(cluster) || (namespace !== '' && reach.reads(cluster, namespace));
    };
  }
  /** As a measure has them: the cluster that it was read in is one of them. */
  labels(id: SeriesId): Labels {
    const cluster = this.clusterOf(id);
    return { ...(cluster === null ? {} : { cluster }), ...Object.fromEntries(this.numbers.table.labels(id)) };
  }
  intervalOf(id: SeriesId): DurationMs {
    const plan = this.knownEndpoints.get(this.numbers.table.endpointOf(id) ?? -1)?.plan;
    return plan === undefined || plan.intervalMs <= 0 ? PUSHED_APART : plan.intervalMs;
  }
  endpointOf(id: SeriesId): number {
    return this.numbers.table.endpointOf(id) ?? -1;
  }
  boundOf(labels: Labels): number {
    const text = labels[BOUND_LABEL] ?? '';
    return text === '+Inf' ? Number.POSITIVE_INFINITY : Number(text);
  }
  withoutBound(labels: Labels): Labels {
    const { [BOUND_LABEL]: _bound, ...rest } = labels;
    return rest;
  }
}
