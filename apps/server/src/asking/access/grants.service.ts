import { Injectable, type OnModuleInit } from '@nestjs/common';
import type { GrantAnswer, GrantDocument, Person, SightAnswer, TeamDocument } from '@zetopsis/contract';
import { inWords, type Permit, Reach } from '@zetopsis/core/access';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { DocumentProblem } from '../../ground/configuration/documents.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { OwnersService, type Team } from '../owners/owners.service.ts';
import { AccessService } from './access.service.ts';

const LEVEL_RANK = { read: 0, operate: 1, administer: 2 } as const;

const permitOf = (key: string, grant: GrantDocument, team: string | undefined): Permit => ({
  level: grant.may,
  cluster: grant.cluster,
  namespace: grant.namespace,
  why: `grant ${key}${team === undefined ? '' : ` to team ${team}`}`,
  own: false,
});

/** Who may see and do what: from the role, the grants, and what the person's teams own. The one place that decides it. */
@Injectable()
export class GrantsService implements OnModuleInit {
  constructor(
    private readonly configuration: ConfigurationService,
    private readonly owners: OwnersService,
    private readonly access: AccessService,
  ) {}

  onModuleInit(): void {
    this.configuration.addCheck(async (wanted, changes) => {
      const problems: DocumentProblem[] = [];
      for (const [key, grant] of wanted.all('grant')) {
        if (grant.team !== undefined && wanted.get('team', grant.team) === null)
          problems.push({
            kind: 'grant',
            key,
            path: ['team'],
            text: `Grant ${key} is given to team ${grant.team}, which there is not. Remove the grant, too.`,
          });
      }
      for (const { kind, key, after } of changes) {
        const person = kind === 'grant' && after !== null ? (after as GrantDocument).person : undefined; // told by its kind
        if (person !== undefined && !(await this.access.knows(person)))
          problems.push({ kind: 'grant', key, path: ['person'], text: `There is nobody called ${person}.` });
      }
      for (const { kind, key, before, after } of changes) {
        if (kind !== 'team' || after === null) continue;
        const known = new Set((before as TeamDocument | null)?.members);
        for (const [i, member] of (after as TeamDocument).members.entries())
          if (!known.has(member) && !(await this.access.knows(member)))
            problems.push({ kind: 'team', key, path: ['members', i], text: `There is nobody called ${member}.` });
      }
      return problems;
    });
  }

  reachOf(person: Person): Reach {
    const role: Permit[] =
      person.role === 'administrator'
        ? [
            {
              level: 'administer',
              cluster: null,
              namespace: null,
              why: `${person.name} is an administrator`,
              own: false,
            },
          ]
        : this.granted(person);
    return Reach.of([...role, ...this.ownPermits(person)], (cluster, namespace) =>
      this.owners.hasNamespace(cluster, namespace),
    );
  }

  /** What every member of a team may read by being one: what it owns, and what it was granted. */
  reachOfTeam(key: string): Reach {
    const team = this.owners.teams().find((one) => one.key === key);
    if (team === undefined) return Reach.of([]);
    const granted = [...this.configuration.all('grant')].flatMap(([grantKey, grant]): Permit[] =>
      grant.team === key ? [permitOf(grantKey, grant, team.name)] : [],
    );
    return Reach.of([...granted, ...this.permitsOfTeam(team)], (cluster, namespace) =>
      this.owners.hasNamespace(cluster, namespace),
    );
  }

  teamsOf(person: Person): string[] {
    return this.owners.teamsOf(person.name).map(({ name }) => name);
  }

  /** Members of a team operate what it owns. */
  private ownPermits(person: Person): Permit[] {
    return this.owners.teamsOf(person.name).flatMap((team) => this.permitsOfTeam(team));
  }
  private permitsOfTeam(team: Team): Permit[] {
    return this.owners.owned(team).map(
      ({ cluster, namespace, ownership }): Permit => ({
        level: 'operate',
        cluster,
        namespace,
        why: `team ${team.name} owns it ${inWords(ownership)}`,
        own: true,
      }),
    );
  }
  private granted(person: Person): Permit[] {
    const teams = new Map(this.owners.teamsOf(person.name).map((team) => [team.key, team.name]));
    return [...this.configuration.all('grant')].flatMap(([key, grant]): Permit[] => {
      const team = grant.team === undefined ? undefined : teams.get(grant.team);
      if (grant.person !== person.name && team === undefined) return [];
      return [permitOf(key, grant, team)];
    });
  }

  list(): GrantAnswer[] {
    return [...this.configuration.all('grant')].map(([key, grant]) => ({
      key,
      person: grant.person ?? null,
      team:
        grant.team === undefined
          ? null
          : { key: grant.team, name: this.configuration.get('team', grant.team)?.name ?? grant.team },
      may: grant.may,
      cluster: grant.cluster,
      namespace: grant.namespace,
    }));
  }
  /** A new grant's key says what it is: "tove-read-landward". */
  async add(by: string, grant: GrantDocument): Promise<void> {
    const base = [grant.person ?? grant.team, grant.may, grant.cluster ?? 'every-cluster', grant.namespace]
      .filter((part) => part !== null && part !== undefined)
      .join('-')
      .replace(/[^a-zA-Z0-9-]/g, '-')
      .slice(0, 56);
    if (this.configuration.get('grant', base) !== null)
      throw new Refusal('conflict', 'This is granted already.', [{ path: 'may', text: 'granted already' }]);
    await this.configuration.change({
      by,
      what: `granted ${base}`,
      wishes: [{ kind: 'grant', key: base, after: grant, fresh: true }],
    });
  }
  async remove(by: string, key: string): Promise<void> {
    if (this.configuration.get('grant', key) === null)
      throw new Refusal('notFound', 'There is no such grant (any more).');
    await this.configuration.change({
      by,
      what: `took grant ${key} back`,
      wishes: [{ kind: 'grant', key, after: null }],
    });
  }
  /** Nothing is left that a later person of the same name would inherit. */
  async forgetPerson(by: string, name: string): Promise<void> {
    const grants = [...this.configuration.all('grant')]
      .filter(([, { person }]) => person === name)
      .map(([key]) => ({ kind: 'grant' as const, key, after: null }));
    const teams = [...this.configuration.all('team')]
      .filter(([, { members }]) => members.includes(name))
      .map(([key, team]) => ({
        kind: 'team' as const,
        key,
        after: { ...team, members: team.members.filter((member) => member !== name) },
      }));
    await this.configuration.change({
      by,
      what: `removed ${name} from teams and grants`,
      wishes: [...grants, ...teams],
    });
  }

  /** What a person can see, and why; worked out by the same check that every request goes through. */
  sightOf(person: Person): SightAnswer {
    const reach = this.reachOf(person);
    const clusters = this.owners.everyNamespace().map(({ cluster, namespaces }) => {
      const whole = reach.whole(cluster);
      const seen = namespaces.filter((namespace) => reach.reads(cluster, namespace));
      return {
        cluster,
        whole,
        namespaces: seen.map((namespace) => {
          const permits = reach.permits.filter((permit) => Reach.of([permit]).reads(cluster, namespace));
          const best = permits.reduce((top, permit) =>
            LEVEL_RANK[permit.level] > LEVEL_RANK[top.level] ? permit : top,
          );
          return { namespace, level: best.level, why: [...new Set(permits.map(({ why }) => why))] };
        }),
        hidden: namespaces.length - seen.length,
      };
    });
    return {
      person: person.name,
      teams: this.teamsOf(person),
      permits: [...reach.permits],
      clusters,
    };
  }
}
