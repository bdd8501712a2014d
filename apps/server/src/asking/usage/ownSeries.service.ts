import { Injectable } from '@nestjs/common';
import type { PodObject } from '@zetopsis/core/inventory';
import { OBJECT_LABELS } from '@zetopsis/core/scouting';
import type { DurationMs, SeriesId } from '@zetopsis/core/units';
import { inPieces, Pieces } from '../../ground/platform/inPieces.ts';
import { KnownEndpoints } from '../../inflow/scraping/knownEndpoints.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';

/** Of a workload of many pods so many are asked. */
const MOST_PODS = 500;

/** Series that a cluster's objects serve themselves, or that are pushed about them: tied to them by the conventions' labels. */
@Injectable()
export class OwnSeries {
  constructor(
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly knownEndpoints: KnownEndpoints,
  ) {}

  /** By metric; those without any are left out. */
  ofPods(connectionId: string, pods: readonly PodObject[], metrics: readonly string[]): Map<string, SeriesId[]> {
    const asked = pods.slice(0, MOST_PODS);
    const uids = new Set(asked.map(({ uid }) => uid));
    const names = new Set(asked.map(({ name }) => name));
    const places = new Set(asked.map(({ namespace }) => namespace ?? ''));
    const found = new Map<string, SeriesId[]>();
    for (const metric of metrics) {
      const byUid = this.samples.select(metric, [{ label: OBJECT_LABELS.podUid, isOneOf: uids }]);
      // who pushes may know a pod only by its name
      const byName = this.samples
        .select(metric, [
          { label: OBJECT_LABELS.pod, isOneOf: names },
          { label: OBJECT_LABELS.namespace, isOneOf: places },
        ])
        .filter((id) => this.samples.label(id, OBJECT_LABELS.podUid) === '');
      const own = [...byUid, ...byName].filter((id) => this.vitals.isOf(connectionId, id));
      if (own.length > 0) found.set(metric, own);
    }
    return found;
  }
  /** Of all pods of a cluster at once, by what they belong to: each series is looked at once. `groupOf`: by uid, or by place. */
  async grouped(
    connectionId: string,
    metrics: readonly string[],
    groupOf: (pod: { readonly uid: string; readonly place: string }) => string | undefined,
  ): Promise<Map<string, Map<string, SeriesId[]>>> {
    const groups = new Map<string, Map<string, SeriesId[]>>();
    const pieces = new Pieces();
    for (const metric of metrics)
      await inPieces(
        this.samples.select(metric, []),
        (id) => {
          const label = (name: string) => this.samples.label(id, name);
          const group = groupOf({
            uid: label(OBJECT_LABELS.podUid),
            place: `${label(OBJECT_LABELS.namespace)}/${label(OBJECT_LABELS.pod)}`,
          });
          if (group === undefined || !this.vitals.isOf(connectionId, id)) return;
          const own = groups.get(group) ?? new Map<string, SeriesId[]>();
          groups.set(group, own);
          const ids = own.get(metric);
          if (ids) ids.push(id);
          else own.set(metric, [id]);
        },
        pieces,
      );
    return groups;
  }
  /** How far apart the readings of these series are at most; at least as far as those of the cluster. */
  intervalOf(ids: Iterable<SeriesId>, atLeast: DurationMs): DurationMs {
    const own = new Set([...ids].map((id) => this.samples.endpointOf(id) ?? -1));
    return Math.max(atLeast, ...[...own].map((endpoint) => this.knownEndpoints.get(endpoint)?.plan.intervalMs ?? 0));
  }
  /** Of a node itself: what speaks of no pod on it. */
  ofNode(connectionId: string, node: string, metrics: readonly string[]): Map<string, SeriesId[]> {
    return new Map(
      metrics.map((metric) => [
        metric,
        this.samples
          .select(metric, [{ label: OBJECT_LABELS.node, is: node }])
          .filter((id) => this.samples.label(id, OBJECT_LABELS.podUid) === '' && this.vitals.isOf(connectionId, id)),
      ]),
    );
  }
}
