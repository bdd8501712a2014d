import { Injectable, type OnModuleInit } from '@nestjs/common';
import { type EndpointAnswer, MACHINES, type VitalsAnswer, type VitalsDocument } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import type { SeriesId } from '@zetopsis/core/units';
import {
  HOST_LABELS,
  HOST_VITAL_NAMES,
  type HostVital,
  isHostVital,
  ownHostMapping,
  proposeHostVitals,
  type ServedMetric,
  type VitalMapping,
} from '@zetopsis/core/vitals';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { EndpointAnswersService } from '../../inflow/scraping/endpointAnswers.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';

const VALUES_LOOKED_AT = 50;

/** A machine with the endpoints that speak of it. */
type Known = ReadonlyMap<string, readonly EndpointAnswer[]>;
export interface HostSeries {
  readonly id: SeriesId;
  readonly mapping: VitalMapping;
}

/** Which machines outside clusters there are, and under which names their pages tell what they use. */
@Injectable()
export class HostVitals implements OnModuleInit {
  constructor(
    private readonly configuration: ConfigurationService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
  ) {}

  onModuleInit(): void {
    this.configuration.addCheck((_wanted, changes) =>
      changes.flatMap((change) =>
        change.kind !== 'vitals' || change.key !== MACHINES || change.after === null
          ? []
          : Object.keys((change.after as VitalsDocument).vitals)
              .filter((vital) => !isHostVital(vital))
              .map((vital) => ({
                kind: 'vitals' as const,
                key: change.key,
                path: ['vitals', vital],
                text: `There is no vital ${vital} of machines; there are ${HOST_VITAL_NAMES.join(', ')}.`,
              })),
      ),
    );
  }

  /** Each with the endpoints that speak of it; they concern those who may read everything. */
  machines(reach: Reach): Known {
    if (!reach.mayEverywhere('read')) return new Map();
    const outside = new Map(
      this.endpointAnswers
        .list(reach)
        .filter(({ connection, kind }) => connection === null && kind !== 'own')
        .map((endpoint) => [endpoint.id, endpoint]),
    );
    const hosts = new Map<string, Set<EndpointAnswer>>();
    const note = (name: string, endpoint: EndpointAnswer | undefined) => {
      if (!endpoint || name === '') return;
      const own = hosts.get(name) ?? new Set();
      hosts.set(name, own.add(endpoint));
    };
    const given = new Map([...outside.values()].flatMap((one) => (one.kind === 'given' ? [[one.name, one]] : [])));
    // one that was never read is there, too: with the reason
    for (const [key, { host }] of this.configuration.all('endpoint')) note(host, given.get(key));
    for (const { value, endpoint } of this.numbers.table.withLabel(HOST_LABELS.host))
      note(value, outside.get(endpoint));
    return new Map([...hosts].sort(([a], [b]) => (a < b ? -1 : 1)).map(([name, own]) => [name, [...own]]));
  }

  /** A machine's series of a vital: under our own names, else as they are mapped. */
  series(name: string, endpoints: ReadonlySet<number>, vital: HostVital): HostSeries[] {
    const own = this.under(ownHostMapping(vital), name, endpoints);
    const mapped = this.kept()[vital];
    return own.length > 0 || mapped === undefined ? own : this.under(mapped, name, endpoints);
  }
  private kept(): Readonly<Record<string, VitalMapping>> {
    return (this.configuration.get('vitals', MACHINES)?.vitals ?? {}) as Readonly<Record<string, VitalMapping>>;
  }
  private under(mapping: VitalMapping, name: string, endpoints: ReadonlySet<number>): HostSeries[] {
    const where = Object.entries(mapping.where).map(([label, is]) => ({ label, is }));
    return this.samples
      .select(mapping.metric, [{ label: HOST_LABELS.host, is: name }, ...where])
      .filter((id) => endpoints.has(this.samples.endpointOf(id) ?? -1))
      .map((id) => ({ id, mapping }));
  }

  /** What is read of machines as it is mapped, or would be by this document. */
  answer(reach: Reach, document?: VitalsDocument): VitalsAnswer {
    const given = (document?.vitals ?? this.kept()) as Readonly<Record<string, VitalMapping>>;
    const machines = [...this.machines(reach)].map(([name, own]) => ({
      name,
      endpoints: new Set(own.map(({ id }) => id)),
    }));
    const served = this.served(machines);
    const found = (mapping: VitalMapping | undefined) =>
      mapping === undefined ? [] : machines.map(({ name, endpoints }) => this.under(mapping, name, endpoints));
    return {
      cluster: MACHINES,
      vitals: HOST_VITAL_NAMES.map((vital) => {
        const mapped = given[vital];
        const [own, others] = [found(ownHostMapping(vital)), found(mapped)];
        const each = machines.map((_, i) => ((own[i] ?? []).length > 0 ? own[i]! : (others[i] ?? [])));
        const first = each.findIndex((series) => series.length > 0);
        const one = each[first]?.[0];
        const newest = one && this.samples.recent(one.id, Number.POSITIVE_INFINITY);
        const value = newest?.values.at(-1);
        return {
          vital,
          mapping: copied(mapped ?? ownHostMapping(vital)),
          mapped: mapped !== undefined,
          series: each.flat().length,
          objects: each.filter((series) => series.length > 0).length,
          ofObjects: machines.length,
          example:
            one && value !== undefined && !Number.isNaN(value)
              ? { of: machines[first]!.name, value: value * one.mapping.factor } // it was found there
              : null,
          problem: null,
        };
      }),
      proposals: proposeHostVitals(served)
        .filter(({ vital }) => given[vital] === undefined)
        .map(({ vital, mapping, because }) => ({ vital, mapping: copied(mapping), because })),
      metrics: served.map(({ name }) => name).sort(),
    };
  }
  async save(by: string, reach: Reach, document: VitalsDocument): Promise<VitalsAnswer> {
    await this.configuration.change({
      by,
      what: 'mapped the vitals of machines outside clusters',
      wishes: [{ kind: 'vitals', key: MACHINES, after: Object.keys(document.vitals).length === 0 ? null : document }],
    });
    return this.answer(reach);
  }

  /** The metrics of the machines' newest pages, with some values of their labels. */
  private served(machines: readonly { readonly endpoints: ReadonlySet<number> }[]): ServedMetric[] {
    const endpoints = new Set(machines.flatMap(({ endpoints: own }) => [...own]));
    const metrics = new Map<string, Omit<ServedMetric, 'labels'> & { readonly labels: Map<string, Set<string>> }>();
    for (const endpoint of endpoints)
      for (const [name, ids] of this.numbers.metricsOf(endpoint)) {
        const first = ids[0];
        if (first === undefined) continue;
        const own = metrics.get(name) ?? {
          name,
          cumulative: this.numbers.table.isCumulative(first),
          series: 0,
          labels: new Map<string, Set<string>>(),
        };
        metrics.set(name, { ...own, series: own.series + ids.length });
        for (const id of ids.slice(0, VALUES_LOOKED_AT))
          for (const [label, value] of this.numbers.table.labels(id))
            own.labels.set(label, (own.labels.get(label) ?? new Set<string>()).add(value));
      }
    return [...metrics.values()];
  }
}

const copied = (mapping: VitalMapping) => ({ ...mapping, labels: { ...mapping.labels }, where: { ...mapping.where } });
