import { Injectable, type OnModuleInit } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import type { TeamAnswer, TeamInput } from '@zetopsis/contract';
import { Repository } from 'typeorm';
import { Refusal } from '../platform/refusals.ts';
import { TeamEntity } from './team.entity.ts';

/** Which team owns which namespace, and where it is told. */
@Injectable()
export class OwnersService implements OnModuleInit {
  private teams: TeamAnswer[] = [];

  constructor(@InjectRepository(TeamEntity) private readonly store: Repository<TeamEntity>) {}

  async onModuleInit(): Promise<void> {
    await this.reload();
  }
  list(): TeamAnswer[] {
    return this.teams;
  }
  get(id: number): TeamAnswer {
    const team = this.teams.find((candidate) => candidate.id === id);
    if (!team) throw new Refusal('notFound', 'There is no such team (any more).');
    return team;
  }
  ownerOf(namespace: string): TeamAnswer | null {
    return this.teams.find(({ namespaces }) => namespaces.includes(namespace)) ?? null;
  }

  /** Makes or changes a team. A namespace owned by another team is refused, not taken away. */
  async save(input: TeamInput, id?: number): Promise<TeamAnswer> {
    if (id !== undefined) this.get(id);
    if (this.teams.some((team) => team.id !== id && team.name.toLowerCase() === input.name.toLowerCase())) {
      throw new Refusal('conflict', `There is a team ${input.name} already. Choose another name.`, [
        { path: 'name', text: 'in use' },
      ]);
    }
    for (const namespace of input.namespaces) {
      const owner = this.ownerOf(namespace);
      if (owner && owner.id !== id) {
        throw new Refusal('conflict', `${namespace} belongs to ${owner.name}. Remove it there first.`, [
          { path: 'namespaces', text: `${namespace} belongs to ${owner.name}` },
        ]);
      }
    }
    const team = this.store.create({
      ...(id === undefined ? {} : { id }),
      name: input.name,
      email: input.email,
      namespaces: [...new Set(input.namespaces)].map((namespace) => ({ namespace })),
    });
    const saved = await this.store.save(team);
    await this.reload();
    return this.get(saved.id);
  }
  async remove(id: number): Promise<void> {
    this.get(id);
    await this.store.delete(id);
    await this.reload();
  }

  private async reload(): Promise<void> {
    const teams = await this.store.find({ relations: { namespaces: true }, order: { name: 'ASC' } });
    this.teams = teams.map(({ id, name, email, namespaces }) => ({
      id,
      name,
      email,
      namespaces: namespaces.map(({ namespace }) => namespace).sort(),
    }));
  }
}
