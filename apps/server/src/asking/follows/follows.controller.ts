import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Req } from '@nestjs/common';
import { DocumentKey, FollowDocument, type FollowsAnswer } from '@zetopsis/contract';
import { Audited, keyed, named } from '../../ground/guard/action.ts';
import type { KnownRequest } from '../../ground/guard/route.ts';
import { FollowsService } from './follows.service.ts';

/** Log lines that are read from clusters, for programs that push none. */
@Controller('api/follows')
export class FollowsController {
  constructor(private readonly follows: FollowsService) {}

  @Get()
  list(@Req() { reach, person }: KnownRequest): Promise<FollowsAnswer> {
    return this.follows.list({ reach, person });
  }
  @Audited('follow log lines', named('namespace'))
  @Post()
  async add(
    @Body({ schema: FollowDocument }) document: FollowDocument,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<{ key: string }> {
    return { key: await this.follows.add({ reach, person }, who, document) };
  }
  @Audited('change what is followed', keyed)
  @Put(':key')
  @HttpCode(204)
  save(
    @Param('key', { schema: DocumentKey }) key: string,
    @Body({ schema: FollowDocument }) document: FollowDocument,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.follows.save({ reach, person }, who, key, document);
  }
  @Audited('follow log lines no longer', keyed)
  @Delete(':key')
  @HttpCode(204)
  remove(
    @Param('key', { schema: DocumentKey }) key: string,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.follows.remove({ reach, person }, who, key);
  }
}
