import { Injectable } from '@nestjs/common';
import type { Person } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { Refusal } from '../../ground/platform/refusals.ts';
import { OwnersService } from './owners.service.ts';

/** Who asks: what they may see, and as whom. */
export interface Asker {
  readonly reach: Reach;
  /** Null: nobody in person; a rule of a team, or of the platform. */
  readonly person: Pick<Person, 'name'> | null;
  /** Whose rule it is. */
  readonly team?: string | null;
}

/** What is kept for everybody, or for a team by its members: measures, rules, hushes. Null is everybody's. */
@Injectable()
export class KeptForTeams {
  constructor(private readonly owners: OwnersService) {}

  sees(asker: Asker, team: string | null): boolean {
    return team === null || this.seesAllOf(asker, team);
  }
  /** Whether somebody sees everything that it may be about. */
  seesAllOf(asker: Asker, team: string | null): boolean {
    return asker.reach.mayEverywhere('read') || this.isOf(asker, team);
  }
  private isOf({ person, team: own }: Asker, team: string | null): boolean {
    if (team === null) return false;
    return own === team || (person !== null && this.owners.isMember(person.name, team));
  }
  mayChange(asker: Asker, team: string | null): boolean {
    return asker.reach.mayEverywhere('administer') || this.isOf(asker, team);
  }
  /** `refusals`: what is said to whoever may not, of what is everybody's and of what is a team's. */
  demandChange(
    asker: Asker,
    team: string | null,
    refusals: { readonly everybody: string; readonly team: string },
  ): void {
    if (!this.mayChange(asker, team))
      throw new Refusal('notAllowed', team === null ? refusals.everybody : refusals.team);
  }
  /** Teams for which somebody may keep something, and whether for everybody. */
  writableBy(asker: Asker): { readonly everywhere: boolean; readonly teams: { key: string; name: string }[] } {
    const everywhere = asker.reach.mayEverywhere('administer');
    const teams = everywhere ? this.owners.teams() : this.owners.teamsOf(asker.person?.name ?? '');
    return { everywhere, teams: teams.map(({ key, name }) => ({ key, name })) };
  }
  /** Those that somebody is in. */
  teamsOf({ person }: Asker): ReadonlySet<string> {
    return new Set(this.owners.teamsOf(person?.name ?? '').map(({ key }) => key));
  }
  nameOf(team: string | null): string | null {
    return team === null ? null : (this.owners.teams().find(({ key }) => key === team)?.name ?? team);
  }
}
