import { Body, Controller, Delete, Get, HttpCode, Param, Post, Req } from '@nestjs/common';
import { DocumentKey, type GrantAnswer, GrantDocument, type SightAnswer } from '@zetopsis/contract';
import { z } from 'zod';
import { Audited, keyed, named } from '../../ground/guard/action.ts';
import { Administrators, type KnownRequest } from '../../ground/guard/route.ts';
import { GrantsService } from './grants.service.ts';
import { PeopleService } from './people.service.ts';

const Id = z.uuid();

@Administrators()
@Controller('api/admin')
export class GrantsController {
  constructor(
    private readonly grants: GrantsService,
    private readonly people: PeopleService,
  ) {}

  @Get('grants')
  list(): GrantAnswer[] {
    return this.grants.list();
  }
  @Audited('grant', (request) =>
    [named('person'), named('team'), named('may'), named('cluster'), named('namespace')]
      .map((field) => field(request))
      .filter((text) => text !== '')
      .join(' '),
  )
  @Post('grants')
  @HttpCode(204)
  add(@Body({ schema: GrantDocument }) body: GrantDocument, @Req() request: KnownRequest): Promise<void> {
    return this.grants.add(request.who, body);
  }
  @Audited('take a grant back', keyed)
  @Delete('grants/:key')
  @HttpCode(204)
  remove(@Param('key', { schema: DocumentKey }) key: string, @Req() request: KnownRequest): Promise<void> {
    return this.grants.remove(request.who, key);
  }
  @Get('people/:id/sight')
  async sight(@Param('id', { schema: Id }) id: string): Promise<SightAnswer> {
    return this.grants.sightOf(await this.people.get(id));
  }
}
