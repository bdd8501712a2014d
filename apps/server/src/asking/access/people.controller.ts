import { Body, Controller, Delete, Get, HttpCode, Param, Patch, Post, Req } from '@nestjs/common';
import { NewPerson, OwnPassword, type PersonAnswer, PersonChange, type TokenAnswer } from '@zetopsis/contract';
import { z } from 'zod';
import { Audited, named } from '../../ground/guard/action.ts';
import { Administrators, InPerson, type KnownRequest, sessionOf } from '../../ground/guard/route.ts';
import { PeopleService } from './people.service.ts';
import { TokensService } from './tokens.service.ts';
import { Tries } from './tries.guard.ts';

const Id = z.uuid();

@Controller('api')
export class PeopleController {
  constructor(
    private readonly people: PeopleService,
    private readonly tokens: TokensService,
  ) {}

  @Administrators()
  @Get('admin/people')
  list(): Promise<PersonAnswer[]> {
    return this.people.list();
  }
  @Administrators()
  @Audited('add a person', named('name'))
  @Post('admin/people')
  add(@Body({ schema: NewPerson }) body: NewPerson): Promise<PersonAnswer> {
    return this.people.add(body);
  }
  @Administrators()
  @Audited('change a person', ({ params }) => String(params['id']))
  @Patch('admin/people/:id')
  change(
    @Param('id', { schema: Id }) id: string,
    @Body({ schema: PersonChange }) body: PersonChange,
    @Req() request: KnownRequest,
  ): Promise<PersonAnswer> {
    return this.people.change(id, body, request.person);
  }
  @Administrators()
  @Audited('remove a person', ({ params }) => String(params['id']))
  @Delete('admin/people/:id')
  @HttpCode(204)
  remove(@Param('id', { schema: Id }) id: string, @Req() request: KnownRequest): Promise<void> {
    return this.people.remove(id, request.person);
  }
  @InPerson()
  @Tries()
  @Audited('change the own password')
  @Post('session/password')
  @HttpCode(204)
  ownPassword(@Body({ schema: OwnPassword }) body: OwnPassword, @Req() request: KnownRequest): Promise<void> {
    return this.people.changeOwnPassword(request.person, body, sessionOf(request));
  }
  /** Out everywhere but here. */
  @InPerson()
  @Audited('end the own other sessions')
  @Delete('session/others')
  @HttpCode(204)
  endOthers(@Req() request: KnownRequest): Promise<void> {
    return this.people.endSessions(request.person.id, sessionOf(request));
  }
  @Administrators()
  @Audited('end the sessions of a person', ({ params }) => String(params['id']))
  @Delete('admin/people/:id/sessions')
  @HttpCode(204)
  endSessions(@Param('id', { schema: Id }) id: string, @Req() request: KnownRequest): Promise<void> {
    return this.people.endSessions(id, id === request.person.id ? sessionOf(request) : null);
  }
  @Administrators()
  @Get('admin/people/:id/tokens')
  async tokensOf(@Param('id', { schema: Id }) id: string): Promise<TokenAnswer[]> {
    return this.tokens.list(await this.people.get(id));
  }
  @Administrators()
  @Audited('remove a token of a person', ({ params }) => `${String(params['id'])} ${String(params['token'])}`)
  @Delete('admin/people/:id/tokens/:token')
  @HttpCode(204)
  async removeToken(@Param('id', { schema: Id }) id: string, @Param('token', { schema: Id }) token: string) {
    await this.tokens.remove(await this.people.get(id), token);
  }
}
