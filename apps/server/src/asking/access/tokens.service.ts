import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import type { NewTokenAnswer, Person, TokenAnswer, TokenInput } from '@zetopsis/contract';
import { LessThan, Repository } from 'typeorm';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { TokenEntity } from './token.entity.ts';

const PREFIX = 'zet_';
const DAY = 86_400_000;
const MOST = 50;
/** A token that ran out is listed for so long. */
const KEPT_AFTER = 30 * DAY;
/** How exact "last used" is; a write for each request would be too many. */
const USED_EVERY = 60_000;

const digest = (token: string) => createHash('sha256').update(token).digest('base64url');

/** Personal tokens for the API: never more than the person may, and within bounds of their own. */
@Injectable()
export class TokensService {
  constructor(
    @InjectRepository(TokenEntity) private readonly tokens: Repository<TokenEntity>,
    private readonly clock: Clock,
  ) {}

  async list(person: Person): Promise<TokenAnswer[]> {
    return (await this.tokens.find({ where: { person: { id: person.id } }, order: { createdAt: 'DESC' } })).map(
      toAnswer,
    );
  }
  async make(person: Person, input: TokenInput): Promise<NewTokenAnswer> {
    // what ran out long ago is of no use to anybody, and takes a place
    await this.tokens.delete({
      person: { id: person.id },
      expiresAt: LessThan(new Date(this.clock.now() - KEPT_AFTER)),
    });
    if ((await this.tokens.countBy({ person: { id: person.id } })) >= MOST)
      throw new Refusal('conflict', `You have ${MOST} tokens already. Remove one that is not used any more.`);
    const token = `${PREFIX}${randomBytes(32).toString('base64url')}`;
    const saved = await this.tokens.save(
      this.tokens.create({
        person: { id: person.id },
        name: input.name,
        tokenHash: digest(token),
        bound: input.bound,
        expiresAt: new Date(this.clock.now() + input.days * DAY),
        lastUsedAt: null,
      }),
    );
    return { ...toAnswer(saved), token };
  }
  async remove(person: Person, id: string): Promise<void> {
    const { affected } = await this.tokens.delete({ id, person: { id: person.id } });
    if (!affected) throw new Refusal('notFound', 'There is no such token (any more).');
  }

  /** Whose token this is; null when it is none, or ran out. */
  async find(token: string): Promise<TokenEntity | null> {
    if (!token.startsWith(PREFIX) || token.length > 100) return null;
    const found = await this.tokens.findOne({ where: { tokenHash: digest(token) }, relations: { person: true } });
    const now = this.clock.now();
    if (!found || found.expiresAt.getTime() <= now) return null;
    if (found.lastUsedAt === null || now - found.lastUsedAt.getTime() > USED_EVERY)
      await this.tokens.update(found.id, { lastUsedAt: new Date(now) });
    return found;
  }
}

const toAnswer = ({ id, name, bound, createdAt, expiresAt, lastUsedAt }: TokenEntity): TokenAnswer => ({
  id,
  name,
  bound,
  createdAt: createdAt.getTime(),
  expiresAt: expiresAt.getTime(),
  lastUsedAt: lastUsedAt?.getTime() ?? null,
});
