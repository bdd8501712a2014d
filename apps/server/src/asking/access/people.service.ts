import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { hash, verify } from '@node-rs/argon2';
import type { NewPerson, OwnPassword, Person, PersonAnswer, PersonChange } from '@zetopsis/contract';
import { Not, Repository } from 'typeorm';
import { Refusal } from '../../ground/platform/refusals.ts';
import { AccessService } from './access.service.ts';
import { GrantsService } from './grants.service.ts';
import { changingPeople, PersonEntity, SessionEntity } from './person.entity.ts';

/** Adds, changes and removes people. There is always an administrator left, and nobody shuts themselves out. */
@Injectable()
export class PeopleService {
  constructor(
    @InjectRepository(PersonEntity) private readonly people: Repository<PersonEntity>,
    private readonly access: AccessService,
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
    const passwordHash = input.password === undefined ? null : await hash(input.password);
    return changingPeople(this.people, async (people, manager) => {
      const person = await find(people, id);
      await stillAdministers(people, by);
      if (input.role === 'member' && person.role === 'administrator') {
        if (person.id === by.id)
          throw new Refusal('conflict', 'You cannot take your own administrator’s role. Another administrator can.');
        await keepAnAdministrator(people, id);
      }
      if (input.role !== undefined) person.role = input.role;
      if (passwordHash !== null) {
        person.passwordHash = passwordHash;
        await this.access.endSessions(id, null, manager.getRepository(SessionEntity));
      }
      return toAnswer(await people.save(person));
    });
  }

  async remove(id: string, by: Person): Promise<void> {
    const { name } = await changingPeople(this.people, async (people, manager) => {
      const person = await find(people, id);
      if (person.id === by.id) throw new Refusal('conflict', 'You cannot remove yourself. Another administrator can.');
      await stillAdministers(people, by);
      if (person.role === 'administrator') await keepAnAdministrator(people, id);
      await this.access.endSessions(id, null, manager.getRepository(SessionEntity));
      await people.delete(id);
      return person;
    });
    await this.grants.forgetPerson(by.name, name);
  }

  /** Ends all other sessions: whoever knew the old password is out. */
  async changeOwnPassword(by: Person, input: OwnPassword, session: string): Promise<void> {
    const person = await find(this.people, by.id);
    if (!(await verify(person.passwordHash, input.old))) {
      throw new Refusal('invalid', 'This is not your present password.', [
        { path: 'old', text: 'not your present password' },
      ]);
    }
    const passwordHash = await hash(input.password);
    await this.people.manager.transaction(async (manager) => {
      await manager.update(PersonEntity, by.id, { passwordHash });
      await this.access.endSessions(by.id, session, manager.getRepository(SessionEntity));
    });
  }
  /** Signs somebody out everywhere, but where they ask from. */
  async endSessions(id: string, session: string | null): Promise<void> {
    await find(this.people, id);
    await this.access.endSessions(id, session);
  }

  async get(id: string): Promise<Person> {
    const { name, role } = await find(this.people, id);
    return { id, name, role };
  }
}

async function find(people: Repository<PersonEntity>, id: string): Promise<PersonEntity> {
  const person = await people.findOneBy({ id });
  if (!person) throw new Refusal('notFound', 'There is no such person (any more).');
  return person;
}
/** Looked at again where it counts: another administrator may have changed it since the request came. */
async function stillAdministers(people: Repository<PersonEntity>, by: Person): Promise<void> {
  if ((await people.countBy({ id: by.id, role: 'administrator' })) === 0)
    throw new Refusal('notAllowed', 'You are no administrator any more. Ask one of them.');
}
async function keepAnAdministrator(people: Repository<PersonEntity>, without: string): Promise<void> {
  if ((await people.countBy({ role: 'administrator', id: Not(without) })) === 0)
    throw new Refusal('conflict', 'This is the last administrator. Make another one first.');
}

const toAnswer = ({ id, name, role, createdAt, lastSignInAt }: PersonEntity): PersonAnswer => ({
  id,
  name,
  role,
  createdAt: createdAt.getTime(),
  lastSignInAt: lastSignInAt?.getTime() ?? null,
});
