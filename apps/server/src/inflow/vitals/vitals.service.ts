import { Injectable, type OnModuleInit } from '@nestjs/common';
import { MACHINES, type VitalsAnswer, type VitalsDocument } from '@zetopsis/contract';
import type { PodObject } from '@zetopsis/core/inventory';
import type { Samples } from '@zetopsis/core/samples';
import type { LabelMatch } from '@zetopsis/core/series';
import type { SeriesId } from '@zetopsis/core/units';
import {
  type KnownNames,
  mappingProblem,
  ownMapping,
  proposeVitals,
  type Role,
  type ServedMetric,
  VITAL_NAMES,
  type Vital,
  type VitalMapping,
  type VitalOf,
  vitalOf,
} from '@zetopsis/core/vitals';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { KnownEndpoints } from '../scraping/knownEndpoints.ts';
import { scaled } from './scaled.ts';

const VALUES_LOOKED_AT = 200;
const OWN = new Map(VITAL_NAMES.map((vital) => [vital, ownMapping(vital)]));

/** Finds a cluster's series of a vital, under whatever names, labels and units the cluster has it. */
@Injectable()
export class VitalsService implements OnModuleInit {
  /** Pods by namespace and name, for clusters whose metrics know no uid; made anew when pods changed. */
  private readonly uids = new Map<string, Map<string, string>>();

  constructor(
    private readonly configuration: ConfigurationService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly endpoints: EndpointsService,
    private readonly knownEndpoints: KnownEndpoints,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
  ) {}

  onModuleInit(): void {
    this.inventory.onChange((connectionId, kind) => {
      if (kind === 'pod') this.uids.delete(connectionId);
    });
    this.configuration.addCheck((wanted, changes) =>
      changes.flatMap((change) => {
        if (change.kind !== 'vitals' || change.key === MACHINES || change.after === null) return [];
        const at = (path: string[], text: string) => [{ kind: 'vitals' as const, key: change.key, path, text }];
        if (wanted.get('cluster', change.key) === null)
          return at([], `There is no cluster called ${change.key}: vitals are mapped by cluster.`);
        return Object.entries((change.after as VitalsDocument).vitals).flatMap(([vital, mapping]) => {
          if (!isVital(vital))
            return at(['vitals', vital], `There is no vital ${vital}; there are ${VITAL_NAMES.join(', ')}.`);
          const problem = mappingProblem(vital, mapping as VitalMapping);
          return problem === null ? [] : at(['vitals', vital], problem);
        });
      }),
    );
  }

  mapping(connectionId: string, vital: Vital): VitalMapping {
    const document = this.configuration.get('vitals', this.connections.nameOf(connectionId));
    return (document?.vitals[vital] as VitalMapping | undefined) ?? OWN.get(vital)!; // each vital has one
  }
  /** The cluster's series of a vital, those with these roles. */
  select(
    connectionId: string,
    vital: Vital,
    roles: Readonly<Partial<Record<Role, string>>> = {},
    more: readonly LabelMatch[] = [],
  ): SeriesId[] {
    return this.selectAs(connectionId, this.mapping(connectionId, vital), roles, more);
  }
  private selectAs(
    connectionId: string,
    mapping: VitalMapping,
    roles: Readonly<Partial<Record<Role, string>>> = {},
    more: readonly LabelMatch[] = [],
  ): SeriesId[] {
    const matches: LabelMatch[] = [...more, ...Object.entries(mapping.where).map(([label, is]) => ({ label, is }))];
    for (const [role, is] of Object.entries(roles)) {
      const label = mapping.labels[role as Role]; // its own keys
      if (label === undefined) return [];
      matches.push({ label, is });
    }
    return this.samples.select(mapping.metric, matches).filter((id) => this.isOf(connectionId, id));
  }
  /** Whether a series was read from an endpoint of this cluster. */
  isOf(connectionId: string, id: SeriesId): boolean {
    return this.knownEndpoints.connectionOf.get(this.samples.endpointOf(id) ?? -1) === connectionId;
  }
  label({
    connectionId,
    vital,
    id,
    role,
  }: {
    readonly connectionId: string;
    readonly vital: Vital;
    readonly id: SeriesId;
    readonly role: Role;
  }): string {
    return this.labelAs(this.mapping(connectionId, vital), id, role);
  }
  private labelAs({ labels }: VitalMapping, id: SeriesId, role: Role): string {
    const label = labels[role];
    return label === undefined ? '' : this.samples.label(id, label);
  }
  /** The uid of the pod that a series is of; empty when no such pod is known. */
  podUid(connectionId: string, vital: Vital, id: SeriesId): string {
    return this.podUidAs(connectionId, this.mapping(connectionId, vital), id);
  }
  private podUidAs(connectionId: string, mapping: VitalMapping, id: SeriesId): string {
    if (mapping.labels.podUid !== undefined) return this.labelAs(mapping, id, 'podUid');
    let known = this.uids.get(connectionId);
    if (!known) {
      known = new Map(
        this.inventory
          .cluster(connectionId)
          .list('pod')
          .map((pod) => [`${pod.namespace}/${pod.name}`, pod.uid]),
      );
      this.uids.set(connectionId, known);
    }
    return known.get(`${this.labelAs(mapping, id, 'namespace')}/${this.labelAs(mapping, id, 'pod')}`) ?? '';
  }
  /** In seconds or bytes. */
  inUnit(connectionId: string, vital: Vital, samples: Samples): Samples {
    return scaled(samples, this.mapping(connectionId, vital).factor);
  }

  /** What its values are multiplied by. */
  factorOf(connectionId: string, vital: Vital): number {
    return this.mapping(connectionId, vital).factor;
  }

  // ---- looking at a mapping, and proposing one ----------------------------------------------------------------------

  answer(cluster: string, document?: VitalsDocument): VitalsAnswer {
    const connectionId = this.mustKnow(cluster);
    const own = document ?? this.configuration.get('vitals', cluster) ?? { vitals: {} };
    const served = this.served(connectionId);
    return {
      cluster,
      vitals: VITAL_NAMES.map((vital) =>
        this.state(connectionId, vital, own.vitals[vital] as VitalMapping | undefined),
      ),
      proposals: proposeVitals(served, this.known(connectionId))
        .filter(({ vital }) => own.vitals[vital] === undefined)
        .map(({ vital, mapping, because }) => ({ vital, mapping: copied(mapping), because })),
      metrics: served.map(({ name }) => name).sort(),
    };
  }
  async save(by: string, cluster: string, document: VitalsDocument): Promise<VitalsAnswer> {
    this.mustKnow(cluster);
    await this.configuration.change({
      by,
      what: `mapped the vitals of ${cluster}`,
      wishes: [{ kind: 'vitals', key: cluster, after: Object.keys(document.vitals).length === 0 ? null : document }],
    });
    return this.answer(cluster);
  }
  private mustKnow(cluster: string): string {
    const id = this.connections.idOf(cluster);
    if (id === undefined) throw new Refusal('notFound', 'This cluster is not connected (any more).');
    return id;
  }

  private state(connectionId: string, vital: Vital, given: VitalMapping | undefined): VitalsAnswer['vitals'][number] {
    const mapping = given ?? OWN.get(vital)!; // each vital has one
    const problem = mappingProblem(vital, mapping);
    const ids = problem === null ? this.selectAs(connectionId, mapping).filter((id) => this.samples.standsNow(id)) : [];
    const objects = this.objectsFor(connectionId, vital);
    const seen = new Map<string, SeriesId>();
    for (const id of ids) {
      const key = this.objectOf({ connectionId, vital, mapping, id });
      if (objects.has(key)) seen.set(key, id);
    }
    const [first] = seen;
    const newest = first && this.samples.recent(first[1], Number.POSITIVE_INFINITY);
    const value = newest?.values[newest.values.length - 1];
    return {
      vital,
      mapping: copied(mapping),
      mapped: given !== undefined,
      series: ids.length,
      objects: seen.size,
      ofObjects: objects.size,
      example:
        first && value !== undefined && !Number.isNaN(value)
          ? { of: objects.get(first[0])!, value: value * mapping.factor } // it was found there
          : null,
      problem,
    };
  }
  private objectOf({
    connectionId,
    vital,
    mapping,
    id,
  }: {
    readonly connectionId: string;
    readonly vital: Vital;
    readonly mapping: VitalMapping;
    readonly id: SeriesId;
  }): string {
    const { of } = vitalOf(vital);
    if (of === 'node') return this.labelAs(mapping, id, 'node');
    const pod = this.podUidAs(connectionId, mapping, id);
    switch (of) {
      case 'container':
        return `${pod}/${this.labelAs(mapping, id, 'container')}`;
      case 'volume':
        return `${pod}/${this.labelAs(mapping, id, 'claim')}`;
      case 'pod':
        return pod;
    }
  }
  /** What should have a vital, with its name for people. */
  private objectsFor(connectionId: string, vital: Vital): Map<string, string> {
    const cluster = this.inventory.cluster(connectionId);
    const { of } = vitalOf(vital);
    if (of === 'node') return new Map(cluster.list('node').map(({ name }) => [name, name]));
    const pods = cluster.list('pod').filter(({ phase }) => phase === 'running');
    return new Map(pods.flatMap((pod) => partsWith(of, pod)));
  }

  /** The metrics of the nodes' newest pages, with some values of their labels. */
  private served(connectionId: string): ServedMetric[] {
    const endpoints = new Set(this.endpoints.plansOf(connectionId).map(({ id }) => id));
    const metrics = new Map<
      string,
      { name: string; cumulative: boolean; series: number; labels: Map<string, Set<string>> }
    >();
    for (const { id, endpoint, metric } of this.numbers.table.all()) {
      if (!endpoints.has(endpoint) || !this.samples.standsNow(id)) continue;
      let own = metrics.get(metric);
      if (!own) {
        own = { name: metric, cumulative: this.numbers.table.isCumulative(id), series: 0, labels: new Map() };
        metrics.set(metric, own);
      }
      own.series++;
      for (const [label, value] of this.numbers.table.labels(id)) {
        const values = own.labels.get(label) ?? new Set<string>();
        own.labels.set(label, values);
        if (values.size < VALUES_LOOKED_AT) values.add(value);
      }
    }
    return [...metrics.values()];
  }
  private known(connectionId: string): KnownNames {
    const cluster = this.inventory.cluster(connectionId);
    const pods = cluster.list('pod');
    return {
      namespace: new Set(cluster.list('namespace').map(({ name }) => name)),
      pod: new Set(pods.map(({ name }) => name)),
      podUid: new Set(pods.map(({ uid }) => uid)),
      container: new Set(pods.flatMap(({ containers }) => containers.map(({ name }) => name))),
      node: new Set(cluster.list('node').map(({ name }) => name)),
      claim: new Set(pods.flatMap(({ volumes }) => volumes.map(({ claim }) => claim))),
    };
  }
  /** Vitals that no newest page of the cluster has. */
  missing(connectionId: string, wanted: readonly Vital[]): Vital[] {
    return wanted.filter((vital) => !this.select(connectionId, vital).some((id) => this.samples.standsNow(id)));
  }
}

const isVital = (name: string): name is Vital => (VITAL_NAMES as readonly string[]).includes(name);
const copied = (mapping: VitalMapping) => ({ ...mapping, labels: { ...mapping.labels }, where: { ...mapping.where } });

/** What of a pod should have a vital, by its key, with its name for people. */
function partsWith(of: Exclude<VitalOf, 'node'>, pod: PodObject): [string, string][] {
  const name = `${pod.namespace}/${pod.name}`;
  switch (of) {
    case 'container':
      return pod.containers
        .filter(({ state }) => state.is === 'running')
        .map((container) => [`${pod.uid}/${container.name}`, `${name} ${container.name}`]);
    case 'volume':
      return pod.volumes.map(({ claim }) => [`${pod.uid}/${claim}`, `${name} ${claim}`]);
    case 'pod':
      return [[pod.uid, name]];
  }
}
