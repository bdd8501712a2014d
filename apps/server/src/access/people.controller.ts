import { Body, Controller, Delete, Get, HttpCode, Param, Patch, Post, Req } from '@nestjs/common';
import { Throttle } from '@nestjs/throttler';
import { NewPerson, OwnPassword, type PersonAnswer, PersonChange } from '@zetopsis/contract';
import { z } from 'zod';
import { Audited, named } from '../audit/action.ts';
import { Administrators, InPerson, type KnownRequest } from './access.guard.ts';
import { PeopleService } from './people.service.ts';

const Id = z.uuid();
const TRIES = { default: { ttl: 60_000, limit: 15 } };

@Controller('api')
export class PeopleController {
  constructor(private readonly people: PeopleService) {}

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
  @Throttle(TRIES)
  @Audited('change the own password')
  @Post('session/password')
  @HttpCode(204)
  ownPassword(@Body({ schema: OwnPassword }) body: OwnPassword, @Req() request: KnownRequest): Promise<void> {
    return this.people.changeOwnPassword(request.person, body);
  }
}
