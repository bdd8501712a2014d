import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { hash, verify } from '@node-rs/argon2';
import type { FirstPerson, Person, Role, SignIn } from '@zetopsis/contract';
import { LessThan, Repository } from 'typeorm';
import { Refusal } from '../platform/refusals.ts';
import { Clock } from '../platform/settings.ts';
import { PersonEntity, SessionEntity } from './person.entity.ts';

export const SESSION_LIFE = 14 * 86_400_000;

const digest = (secret: string) => createHash('sha256').update(secret).digest('base64url');
const toPerson = ({ id, name, role }: PersonEntity): Person => ({ id, name, role });

/** People and their sessions. */
@Injectable()
export class AccessService {
  private firstCode: string | null = null;
  /** Verified for names that do not exist, so that the time taken tells nothing. */
  private readonly decoy = hash(randomBytes(16).toString('hex'));

  constructor(
    @InjectRepository(PersonEntity) private readonly people: Repository<PersonEntity>,
    @InjectRepository(SessionEntity) private readonly sessions: Repository<SessionEntity>,
    private readonly clock: Clock,
  ) {}

  async nobodyYet(): Promise<boolean> {
    return (await this.people.count({ take: 1 })) === 0;
  }

  /** The one-time code for making the first administrator; null when somebody exists. A new one at each start. */
  async firstStartCode(): Promise<string | null> {
    if (!(await this.nobodyYet())) return null;
    this.firstCode ??= randomBytes(12).toString('base64url');
    return this.firstCode;
  }

  async makeFirst(input: FirstPerson): Promise<Person> {
    const code = await this.firstStartCode();
    if (code === null) throw new Refusal('gone', 'The first administrator exists already: sign in.');
    const given = Buffer.from(digest(input.code));
    if (!timingSafeEqual(given, Buffer.from(digest(code)))) {
      throw new Refusal('invalid', 'This is not the code that the server printed at its start.', [
        { path: 'code', text: 'not the printed code' },
      ]);
    }
    const person = await this.addPerson(input.name, input.password, 'administrator');
    this.firstCode = null;
    return person;
  }

  async addPerson(name: string, password: string, role: Role): Promise<Person> {
    return toPerson(await this.people.save(this.people.create({ name, role, passwordHash: await hash(password) })));
  }

  async knows(name: string): Promise<boolean> {
    return (await this.people.countBy({ name })) > 0;
  }

  async signIn(input: SignIn): Promise<{ person: Person; secret: string }> {
    const found = await this.people.findOneBy({ name: input.name });
    const right = await verify(found?.passwordHash ?? (await this.decoy), input.password);
    if (!found || !right)
      throw new Refusal('notSignedIn', 'Name and password do not fit together. Check both and try again.');
    await this.people.update(found.id, { lastSignInAt: new Date(this.clock.now()) });
    return { person: toPerson(found), secret: await this.openSession(found.id) };
  }

  async openSession(personId: string): Promise<string> {
    const secret = randomBytes(32).toString('base64url');
    const now = this.clock.now();
    await this.sessions.delete({ expiresAt: LessThan(new Date(now)) });
    await this.sessions.save(
      this.sessions.create({
        idHash: digest(secret),
        person: { id: personId },
        expiresAt: new Date(now + SESSION_LIFE),
      }),
    );
    return secret;
  }

  async personOf(secret: string): Promise<Person | null> {
    const session = await this.sessions.findOne({ where: { idHash: digest(secret) }, relations: { person: true } });
    if (!session || session.expiresAt.getTime() <= this.clock.now()) return null;
    return toPerson(session.person);
  }

  async signOut(secret: string): Promise<void> {
    await this.sessions.delete({ idHash: digest(secret) });
  }
}
