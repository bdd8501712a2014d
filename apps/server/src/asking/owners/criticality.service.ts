import { Injectable, type OnModuleInit } from '@nestjs/common';
import type { CriticalityAnswer, CriticalityDocument } from '@zetopsis/contract';
import { criticalities } from '@zetopsis/core/findings';
import { isWorkload, workloadKey } from '@zetopsis/core/inventory';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';

const KEEPERS = ['deployment', 'stateful set', 'daemon set', 'replica set', 'cron job', 'job'] as const;
/** Where nobody said anything yet. */
const NOTHING_SAID: CriticalityDocument = { label: 'criticality', places: [] };

/** How much hangs on what: by label, or as people say. */
@Injectable()
export class CriticalityService implements OnModuleInit {
  constructor(
    private readonly configuration: ConfigurationService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
  ) {}

  onModuleInit(): void {
    this.configuration.addCheck((wanted, changes) =>
      changes.flatMap(({ kind, key, after }) =>
        kind !== 'criticality' || after === null || wanted.get('cluster', key) !== null
          ? []
          : [
              {
                kind,
                key,
                path: [],
                text: `There is no cluster called ${key}: criticality is said of a cluster’s places.`,
              },
            ],
      ),
    );
  }

  of(cluster: string): CriticalityDocument {
    return this.configuration.get('criticality', cluster) ?? NOTHING_SAID;
  }

  answer(cluster: string): CriticalityAnswer {
    const inventory = this.inventory.cluster(this.mustKnow(cluster));
    const { label, places } = this.of(cluster);
    const told = criticalities({ label, places });
    const labelled = criticalities({ label, places: [] });
    const namespaces = new Map(inventory.list('namespace').map((namespace) => [namespace.name, namespace]));
    const workloads = KEEPERS.flatMap((kind) => inventory.list(kind)).filter(isWorkload);
    const keyed = new Map(
      workloads.map((workload) => [
        `${workload.namespace}/${workloadKey(workload)}`,
        { ...workload, key: workloadKey(workload) },
      ]),
    );
    const said = places.map(({ namespace, workload, is }) => ({
      namespace,
      workload,
      is,
      because: 'a person says so',
      gone: workload === null ? !namespaces.has(namespace) : !keyed.has(`${namespace}/${workload}`),
      byPerson: true,
    }));
    const own = new Set(places.map(({ namespace, workload }) => `${namespace}/${workload ?? ''}`));
    const byLabel = (namespace: string, workload: string | null, labels: Readonly<Record<string, string>>) => {
      if (own.has(`${namespace}/${workload ?? ''}`) || labels[label] === undefined) return [];
      const nobody = { name: namespace, labels: {} };
      const { is, because } =
        workload === null ? told({ name: namespace, labels }, null) : labelled(nobody, { key: workload, labels });
      return because === null
        ? []
        : [{ namespace, workload, is, because: `label ${label}=${labels[label]}`, gone: false, byPerson: false }];
    };
    return {
      cluster,
      label,
      places: [
        ...said,
        ...[...namespaces.values()].flatMap(({ name, labels }) => byLabel(name, null, labels)),
        ...[...keyed.values()].flatMap(({ namespace, key, labels }) => byLabel(namespace ?? '', key, labels)),
      ],
    };
  }
  async save(by: string, cluster: string, document: CriticalityDocument): Promise<CriticalityAnswer> {
    this.mustKnow(cluster);
    const empty = document.places.length === 0 && document.label === NOTHING_SAID.label;
    await this.configuration.change({
      by,
      what: `said how much hangs on what in ${cluster}`,
      wishes: [{ kind: 'criticality', key: cluster, after: empty ? null : document }],
    });
    return this.answer(cluster);
  }
  private mustKnow(cluster: string): string {
    const id = this.connections.idOf(cluster);
    if (id === undefined) throw new Refusal('notFound', 'This cluster is not connected (any more).');
    return id;
  }
}
