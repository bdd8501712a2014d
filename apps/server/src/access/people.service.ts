import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { hash, verify } from '@node-rs/argon2';
import type { NewPerson, OwnPassword, Person, PersonAnswer, PersonChange } from '@zetopsis/contract';
import { Not, Repository } from 'typeorm';
import { Refusal } from '../platform/refusals.ts';
import { GrantsService } from './grants.service.ts';
import { PersonEntity, SessionEntity } from './person.entity.ts';

/** Adds, changes and removes people. There is always an administrator left, and nobody shuts themselves out. */
@Injectable()
export class PeopleService {
  constructor(
    @InjectRepository(PersonEntity) private readonly people: Repository<PersonEntity>,
    @InjectRepository(SessionEntity) private readonly sessions: Repository<SessionEntity>,
    private readonly grants: GrantsService,
  ) {}

  async list(): Promise<PersonAnswer[]> {
    return (await this.people.find({ order: { name: 'ASC' } })).map(toAnswer);
  }

  async add(input: NewPerson): Promise<PersonAnswer> {
    if ((await this.people.countBy({ name: input.name })) > 0) {
      throw new Refusal('conflict', `There is somebody called ${input.name} already. Choose another name.`, [
        { path: 'name', text: 'in use' },
      ]);
    }
    return toAnswer(
      await this.people.save(
        this.people.create({ name: input.name, role: input.role, passwordHash: await hash(input.password) }),
      ),
    );
  }

  async change(id: string, input: PersonChange, by: Person): Promise<PersonAnswer> {
    const person = await this.find(id);
    if (input.role === 'member' && person.role === 'administrator') {
      if (person.id === by.id)
        throw new Refusal('conflict', 'You cannot take your own administrator’s role. Another administrator can.');
      await this.keepAnAdministrator(id);
    }
    if (input.role !== undefined) person.role = input.role;
    if (input.password !== undefined) person.passwordHash = await hash(input.password);
    const saved = await this.people.save(person);
    if (input.password !== undefined) await this.sessions.delete({ person: { id } });
    return toAnswer(saved);
  }

  async remove(id: string, by: Person): Promise<void> {
    const person = await this.find(id);
    if (person.id === by.id) throw new Refusal('conflict', 'You cannot remove yourself. Another administrator can.');
    if (person.role === 'administrator') await this.keepAnAdministrator(id);
    await this.people.delete(id);
    await this.grants.forgetPerson(by.name, person.name);
  }

  async changeOwnPassword(by: Person, input: OwnPassword): Promise<void> {
    const person = await this.find(by.id);
    if (!(await verify(person.passwordHash, input.old))) {
      throw new Refusal('invalid', 'This is not your present password.', [
        { path: 'old', text: 'not your present password' },
      ]);
    }
    person.passwordHash = await hash(input.password);
    await this.people.save(person);
  }

  async get(id: string): Promise<Person> {
    const { name, role } = await this.find(id);
    return { id, name, role };
  }
  private async find(id: string): Promise<PersonEntity> {
    const person = await this.people.findOneBy({ id });
    if (!person) throw new Refusal('notFound', 'There is no such person (any more).');
    return person;
  }
  private async keepAnAdministrator(without: string): Promise<void> {
    if ((await this.people.countBy({ role: 'administrator', id: Not(without) })) === 0) {
      throw new Refusal('conflict', 'This is the last administrator. Make another one first.');
    }
  }
}

const toAnswer = ({ id, name, role, createdAt, lastSignInAt }: PersonEntity): PersonAnswer => ({
  id,
  name,
  role,
  createdAt: createdAt.getTime(),
  lastSignInAt: lastSignInAt?.getTime() ?? null,
});
