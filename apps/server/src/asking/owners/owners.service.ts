import { Injectable, type OnModuleInit } from '@nestjs/common';
import type { Owners } from '@zetopsis/answers/columns';
import type { TeamAnswer, TeamDocument, TeamsAnswer } from '@zetopsis/contract';
import { type ObjectPath, placeOf, workloadIn } from '@zetopsis/contract';
import { assignedOwner, inWords, type Ownership, ownerOfNamespace } from '@zetopsis/core/access';
import { workloadKey } from '@zetopsis/core/inventory';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { DocumentChange, DocumentProblem, Documents } from '../../ground/configuration/documents.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { KnownEndpoints } from '../../inflow/scraping/knownEndpoints.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';

export interface Team extends TeamDocument {
  readonly key: string;
}
interface Owned {
  readonly team: Team;
  readonly ownership: Ownership;
}

/** Which team owns what, and where it is told. */
@Injectable()
export class OwnersService implements OnModuleInit {
  /** By cluster, then namespace; made anew when teams or namespaces changed. */
  private known = new Map<string, Map<string, Owned | null>>();

  constructor(
    private readonly configuration: ConfigurationService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly knownEndpoints: KnownEndpoints,
    private readonly numbers: SeriesNumbers,
  ) {}

  onModuleInit(): void {
    this.configuration.addCheck(claimedTwice);
    this.numbers.onTeam((endpoint, namespace) => {
      const connection = this.knownEndpoints.connectionOf.get(endpoint);
      if (connection === undefined || namespace === '') return null;
      return this.ownerOf(this.connections.nameOf(connection), namespace)?.key ?? null;
    });
    this.configuration.onApplied('team', () => this.known.clear());
    this.connections.onChange(() => this.known.clear());
    this.inventory.onChange((_connectionId, kind) => {
      if (kind === 'namespace') this.known.clear();
    });
  }

  teams(): Team[] {
    return [...this.configuration.all('team')]
      .map(([key, team]) => ({ key, ...team }))
      .sort((a, b) => a.name.localeCompare(b.name));
  }
  teamsOf(person: string): Team[] {
    return this.teams().filter(({ members }) => members.includes(person));
  }
  isMember(person: string, team: string): boolean {
    return this.configuration.get('team', team)?.members.includes(person) === true;
  }
  get(key: string): Team {
    const team = this.configuration.get('team', key);
    if (!team) throw new Refusal('notFound', 'There is no such team (any more).');
    return { key, ...team };
  }

  /** Of a workload, when it was assigned otherwise; else of its namespace. */
  ownerOf(cluster: string, namespace: string, workload?: string): Team | null {
    const assigned =
      workload === undefined ? null : assignedOwner({ teams: this.teams(), cluster, namespace, workload });
    return assigned ?? this.namespacesOf(cluster).get(namespace)?.team ?? this.ownerByName(cluster, namespace);
  }
  /** Of a cluster's namespaces and workloads, as columns ask for them: looked up once each. */
  ofCluster(cluster: string): Owners {
    const known = new Map<string, Team | null>();
    return {
      ofNamespace: (namespace) => {
        let team = known.get(namespace);
        if (team === undefined) {
          team = this.ownerOf(cluster, namespace);
          known.set(namespace, team);
        }
        return team;
      },
      ofWorkload: (namespace, workload) => this.ownerOf(cluster, namespace, workload)?.name ?? null,
    };
  }
  /** Of what stands at a path; null for what all of a cluster share. */
  ownerAt(path: ObjectPath): Team | null {
    if (path.is === 'team') return this.teams().find(({ key }) => key === path.team) ?? null;
    const { cluster, namespace } = placeOf(path);
    if (cluster === null || namespace === null) return null;
    const workload = workloadIn(path);
    return this.ownerOf(cluster, namespace, workload === null ? undefined : workloadKey(workload));
  }
  /** A namespace that is not there (any more) can still be owned by its name. */
  private ownerByName(cluster: string, namespace: string): Team | null {
    return ownerOfNamespace(this.teams(), cluster, { name: namespace, labels: {}, annotations: {} })?.team ?? null;
  }
  private namespacesOf(cluster: string): Map<string, Owned | null> {
    const known = this.known.get(cluster);
    if (known) return known;
    const id = this.connections.idOf(cluster);
    const teams = this.teams();
    const made = new Map(
      (id === undefined ? [] : this.inventory.cluster(id).list('namespace')).map((namespace) => [
        namespace.name,
        // versions kept before annotations were read have none
        ownerOfNamespace(teams, cluster, { ...namespace, annotations: namespace.annotations ?? {} }),
      ]),
    );
    this.known.set(cluster, made);
    return made;
  }

  hasNamespace(cluster: string, namespace: string): boolean {
    return this.namespacesOf(cluster).has(namespace);
  }
  everyNamespace(): { cluster: string; namespaces: string[] }[] {
    return this.connections
      .names()
      .map((cluster) => ({ cluster, namespaces: [...this.namespacesOf(cluster).keys()].sort() }));
  }
  /** What a team owns: by name also where the namespace is not there (any more). */
  owned(team: Team): { cluster: string | null; namespace: string; ownership: Ownership }[] {
    const there = this.connections
      .names()
      .flatMap((cluster) =>
        [...this.namespacesOf(cluster)].flatMap(([namespace, owned]) =>
          owned?.team.key === team.key ? [{ cluster, namespace, ownership: owned.ownership }] : [],
        ),
      );
    const named = team.owns.flatMap((ownership) =>
      ownership.by === 'name' ? [{ cluster: ownership.cluster, namespace: ownership.namespace, ownership }] : [],
    );
    const known = new Set(named.map(({ cluster, namespace }) => `${cluster ?? ''}/${namespace}`));
    return [
      ...named,
      ...there.filter(({ cluster, namespace }) => !known.has(`${cluster}/${namespace}`) && !known.has(`/${namespace}`)),
    ];
  }

  answer(): TeamsAnswer {
    const spaces = this.everyNamespace();
    return {
      teams: this.teams().map(
        (team): TeamAnswer => ({
          ...team,
          namespaces: spaces.flatMap(({ cluster, namespaces }) =>
            namespaces.flatMap((namespace) => {
              const owned = this.namespacesOf(cluster).get(namespace);
              return owned?.team.key === team.key ? [{ cluster, namespace, why: inWords(owned.ownership) }] : [];
            }),
          ),
        }),
      ),
      unowned: this.unowned(),
    };
  }
  unowned(): { cluster: string; namespace: string }[] {
    return this.everyNamespace().flatMap(({ cluster, namespaces }) =>
      namespaces
        .filter((namespace) => this.namespacesOf(cluster).get(namespace) === null)
        .map((namespace) => ({ cluster, namespace })),
    );
  }

  // ---- changing ---------------------------------------------------------------------------------------------------

  /** A new team gets its key from its name, and keeps it whatever it is called later. */
  async add(by: string, team: TeamDocument): Promise<void> {
    this.checkName(team.name);
    const base = team.name
      .toLowerCase()
      .normalize('NFKD')
      .replace(/\p{M}/gu, '')
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 50);
    const key = [base || 'team', `${base || 'team'}-2`, `${base || 'team'}-3`].find(
      (candidate) => this.configuration.get('team', candidate) === null,
    );
    if (key === undefined) throw new Refusal('conflict', 'Choose another name: this one is used several times.');
    await this.configuration.change({
      by,
      what: `added team ${team.name}`,
      wishes: [{ kind: 'team', key, after: team, fresh: true }],
    });
  }
  async change(by: string, key: string, team: TeamDocument): Promise<void> {
    this.get(key);
    this.checkName(team.name, key);
    await this.configuration.change({
      by,
      what: `changed team ${team.name}`,
      wishes: [{ kind: 'team', key, after: team }],
    });
  }
  async remove(by: string, key: string): Promise<void> {
    const { name } = this.get(key);
    await this.configuration.change({ by, what: `removed team ${name}`, wishes: [{ kind: 'team', key, after: null }] });
  }
  private checkName(name: string, own?: string): void {
    if (this.teams().some((team) => team.key !== own && team.name.toLowerCase() === name.toLowerCase()))
      throw new Refusal('conflict', `There is a team ${name} already. Choose another name.`, [
        { path: 'name', text: 'in use' },
      ]);
  }
}

/** A name belongs to one team; labels and annotations may meet, then the first key has it. */
function claimedTwice(wanted: Documents, changes: readonly DocumentChange[]): DocumentProblem[] {
  const problems: DocumentProblem[] = [];
  const claims: { key: string; name: string; cluster: string | null; what: string }[] = [];
  // what is being changed comes last: it is to blame, not what stood there before
  const changed = new Set(changes.filter(({ kind }) => kind === 'team').map(({ key }) => key));
  const teams = [...wanted.all('team')].sort(([a], [b]) => Number(changed.has(a)) - Number(changed.has(b)));
  for (const [key, { name, owns }] of teams) {
    owns.forEach((own, i) => {
      if (own.by !== 'name' && own.by !== 'object') return;
      const what = own.by === 'name' ? own.namespace : `${own.namespace}/${own.workload}`;
      const other = claims.find(
        (claim) =>
          claim.key !== key &&
          claim.what === what &&
          (claim.cluster === null || own.cluster === null || claim.cluster === own.cluster),
      );
      if (other)
        problems.push({
          kind: 'team',
          key,
          path: ['owns', i],
          text: `${what} belongs to ${other.name}. Remove it there first.`,
        });
      claims.push({ key, name, cluster: own.cluster, what });
    });
  }
  return problems;
}
