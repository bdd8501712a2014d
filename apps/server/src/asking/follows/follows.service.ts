import { Injectable, type OnModuleInit } from '@nestjs/common';
import type { FollowDocument, FollowsAnswer } from '@zetopsis/contract';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { DocumentChange, DocumentProblem, Documents } from '../../ground/configuration/documents.ts';
import { freeKey } from '../../ground/configuration/freeKey.ts';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { FollowingService, MOST_CONTAINERS } from '../../inflow/following/following.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { type Asker, KeptForTeams } from '../owners/keptForTeams.service.ts';
import { OwnersService } from '../owners/owners.service.ts';

/** Who may let lines of a namespace be read from its cluster: whoever owns it, and administrators. */
@Injectable()
export class FollowsService implements OnModuleInit {
  constructor(
    private readonly configuration: ConfigurationService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly owners: OwnersService,
    private readonly forTeams: KeptForTeams,
    private readonly following: FollowingService,
  ) {}
  onModuleInit(): void {
    this.configuration.addCheck(problemsOf);
  }

  async list(asker: Asker): Promise<FollowsAnswer> {
    const all = [...this.configuration.all('follow')].filter(([, document]) => this.sees(asker, document));
    return {
      follows: await Promise.all(
        all.map(async ([key, document]) => ({
          key,
          document,
          owner: this.owners.ownerOf(document.cluster, document.namespace)?.name ?? null,
          mayChange: this.mayChange(asker, document),
          state: this.following.stateOf(key, document),
          gaps: await this.following.gapsOf(document),
        })),
      ),
      namespaces: await this.namespaces(asker),
      mostContainers: MOST_CONTAINERS,
    };
  }
  /** Those that somebody may follow; some pods at a time: a cluster may have tens of thousands. */
  private async namespaces(asker: Asker): Promise<FollowsAnswer['namespaces']> {
    const all: FollowsAnswer['namespaces'] = [];
    for (const id of this.connections.ids()) {
      const cluster = this.connections.nameOf(id);
      const inventory = this.inventory.cluster(id);
      const own = new Map(
        inventory
          .list('namespace')
          .filter(({ name }) => this.mayChange(asker, { cluster, namespace: name }))
          .map(({ name }) => [name, new Set<string>()]),
      );
      await inPieces(inventory.list('pod'), (pod) => {
        own.get(pod.namespace ?? '')?.add(inventory.workloadOf(pod).name);
      });
      for (const [namespace, workloads] of [...own].sort(([a], [b]) => a.localeCompare(b)))
        all.push({ cluster, namespace, workloads: [...workloads].sort() });
    }
    return all;
  }
  private sees({ reach }: Asker, { cluster, namespace }: Pick<FollowDocument, 'cluster' | 'namespace'>): boolean {
    return reach.may('read', cluster, namespace);
  }
  private mayChange(asker: Asker, place: Pick<FollowDocument, 'cluster' | 'namespace'>): boolean {
    const owner = this.owners.ownerOf(place.cluster, place.namespace);
    return this.sees(asker, place) && this.forTeams.mayChange(asker, owner?.key ?? null);
  }

  async add(asker: Asker, by: string, document: FollowDocument): Promise<string> {
    this.demandChange(asker, document);
    const all = this.configuration.all('follow');
    const key = freeKey(document.namespace, 'follow', (one) => all.has(one));
    await this.configuration.change({
      by,
      what: `let log lines of ${document.namespace} in ${document.cluster} be followed`,
      wishes: [{ kind: 'follow', key, after: document, fresh: true }],
    });
    return key;
  }
  async save(asker: Asker, by: string, key: string, document: FollowDocument): Promise<void> {
    this.demandChange(asker, this.look(asker, key));
    this.demandChange(asker, document);
    await this.configuration.change({
      by,
      what: `changed what is followed of ${document.namespace} in ${document.cluster}`,
      wishes: [{ kind: 'follow', key, after: document }],
    });
  }
  async remove(asker: Asker, by: string, key: string): Promise<void> {
    const document = this.look(asker, key);
    this.demandChange(asker, document);
    await this.configuration.change({
      by,
      what: `let log lines of ${document.namespace} in ${document.cluster} be followed no longer`,
      wishes: [{ kind: 'follow', key, after: null }],
    });
  }
  private look(asker: Asker, key: string): FollowDocument {
    const document = this.configuration.get('follow', key);
    if (!document || !this.sees(asker, document))
      throw new Refusal('notFound', 'Nothing is followed under this name (any more).');
    return document;
  }
  private demandChange(asker: Asker, document: FollowDocument): void {
    if (!this.sees(asker, document))
      throw new Refusal('notFound', 'There is no such namespace, or none that you may see.');
    if (!this.mayChange(asker, document))
      throw new Refusal(
        'notAllowed',
        'Whether its log lines are followed is for the team to say whose namespace it is, and for administrators.',
      );
  }
}

/** What is followed is in a cluster that is there. */
const problemsOf = (wanted: Documents, changes: readonly DocumentChange[]): DocumentProblem[] =>
  changes.flatMap((change) => {
    if (change.kind !== 'follow' || change.after === null) return [];
    const { cluster } = change.after as FollowDocument; // of its kind
    return wanted.get('cluster', cluster) !== null
      ? []
      : [{ kind: 'follow', key: change.key, path: ['cluster'], text: `There is no cluster called ${cluster}.` }];
  });
