import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { hash, verify } from '@node-rs/argon2';
import type { FirstPerson, Person, Role, SignIn } from '@zetopsis/contract';
import { MINUTE } from '@zetopsis/core/units';
import { LRUCache } from 'lru-cache';
import { LessThan, Not, Repository } from 'typeorm';
import { isAway } from '../../ground/platform/databaseProblem.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Secrets } from '../../ground/platform/secrets.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { changingPeople, PersonEntity, SessionEntity } from './person.entity.ts';
import { SignInTries } from './tries.ts';

export const SESSION_LIFE = 14 * 86_400_000;

const digest = (secret: string) => createHash('sha256').update(secret).digest('base64url');
const toPerson = ({ id, name, role }: PersonEntity): Person => ({ id, name, role });

const SEEN_LATELY = 15 * MINUTE;
const SEEN_AT_MOST = 1000;

/** People and their sessions. */
@Injectable()
export class AccessService {
  private firstCode: string | null = null;
  private readonly seen = new LRUCache<string, { person: Person; at: number }>({ max: SEEN_AT_MOST });
  /** Verified for names that do not exist, so that the time taken tells nothing. */
  private readonly decoy = hash(randomBytes(16).toString('hex'));

  private readonly tries = new SignInTries();

  constructor(
    @InjectRepository(PersonEntity) private readonly people: Repository<PersonEntity>,
    @InjectRepository(SessionEntity) private readonly sessions: Repository<SessionEntity>,
    private readonly secrets: Secrets,
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
    const passwordHash = await hash(input.password);
    const person = await changingPeople(this.people, async (people) => {
      if ((await people.count({ take: 1 })) > 0)
        throw new Refusal('gone', 'The first administrator exists already: sign in.');
      return people.save(people.create({ name: input.name, role: 'administrator', passwordHash }));
    });
    this.firstCode = null;
    return toPerson(person);
  }

  /** Names of those who can grant more, at most a few. */
  async administrators(): Promise<string[]> {
    const some = await this.people.find({ where: { role: 'administrator' }, order: { name: 'ASC' }, take: 10 });
    return some.map(({ name }) => name);
  }
  async addPerson(name: string, password: string, role: Role): Promise<Person> {
    return toPerson(await this.people.save(this.people.create({ name, role, passwordHash: await hash(password) })));
  }

  async knows(name: string): Promise<boolean> {
    return (await this.people.countBy({ name })) > 0;
  }

  /** `mark`: what the browser was given when it signed in before, if it was. Answers the one that it is to keep. */
  async signIn(input: SignIn, mark: string): Promise<{ person: Person; secret: string; mark: string }> {
    const browser = this.browserOf(input.name, mark);
    this.tries.check(input.name, browser, this.clock.now());
    const found = await this.people.findOneBy({ name: input.name });
    const right = await verify(found?.passwordHash ?? (await this.decoy), input.password);
    if (!found || !right) {
      this.tries.failed(input.name, browser, this.clock.now());
      throw new Refusal('notSignedIn', 'Name and password do not fit together. Check both and try again.');
    }
    this.tries.right(input.name, browser);
    await this.people.update(found.id, { lastSignInAt: new Date(this.clock.now()) });
    return {
      person: toPerson(found),
      secret: await this.openSession(found.id),
      mark: browser === null ? this.newMark(found.name) : mark,
    };
  }
  private newMark(name: string): string {
    const browser = randomBytes(12).toString('base64url');
    return `${browser}.${this.secrets.fingerprint(`browser of ${name} ${browser}`)}`;
  }
  /** The browser that a mark stands for; null where it was not made here, or for somebody else. */
  private browserOf(name: string, mark: string): string | null {
    const [browser = '', print = ''] = mark.split('.');
    return mark.length < 100 && print !== '' && print === this.secrets.fingerprint(`browser of ${name} ${browser}`)
      ? browser
      : null;
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

  /** While PostgreSQL is away, who was known lately still is: what is the matter must be seen by somebody. */
  async personOf(secret: string): Promise<Person | null> {
    const idHash = digest(secret);
    const now = this.clock.now();
    try {
      const session = await this.sessions.findOne({ where: { idHash }, relations: { person: true } });
      if (!session || session.expiresAt.getTime() <= now) {
        this.seen.delete(idHash);
        return null;
      }
      const person = toPerson(session.person);
      this.seen.set(idHash, { person, at: now });
      return person;
    } catch (error) {
      const known = isAway(error) ? this.seen.get(idHash) : undefined;
      if (known && now - known.at < SEEN_LATELY) return known.person;
      throw error;
    }
  }

  /** Ends a person's sessions, but for one that they keep. */
  async endSessions(personId: string, except: string | null, sessions = this.sessions): Promise<void> {
    const kept = except === null ? '' : digest(except);
    for (const [idHash, { person }] of this.seen)
      if (person.id === personId && idHash !== kept) this.seen.delete(idHash);
    await sessions.delete({ person: { id: personId }, idHash: Not(kept) });
  }
  async signOut(secret: string): Promise<void> {
    this.seen.delete(digest(secret));
    await this.sessions.delete({ idHash: digest(secret) });
  }
}
