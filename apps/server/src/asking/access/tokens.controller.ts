import { Body, Controller, Delete, Get, HttpCode, Param, Post, Req } from '@nestjs/common';
import { type NewTokenAnswer, type TokenAnswer, TokenInput } from '@zetopsis/contract';
import { z } from 'zod';
import { Audited, named, numbered } from '../../ground/guard/action.ts';
import { InPerson, type KnownRequest } from '../../ground/guard/route.ts';
import { TokensService } from './tokens.service.ts';

const Id = z.uuid();

/** One's own tokens; a token cannot make others. */
@InPerson()
@Controller('api/tokens')
export class TokensController {
  constructor(private readonly tokens: TokensService) {}

  @Get()
  list(@Req() request: KnownRequest): Promise<TokenAnswer[]> {
    return this.tokens.list(request.person);
  }
  @Audited('make a token', named('name'))
  @Post()
  make(@Body({ schema: TokenInput }) body: TokenInput, @Req() request: KnownRequest): Promise<NewTokenAnswer> {
    return this.tokens.make(request.person, body);
  }
  @Audited('remove a token', numbered)
  @Delete(':id')
  @HttpCode(204)
  remove(@Param('id', { schema: Id }) id: string, @Req() request: KnownRequest): Promise<void> {
    return this.tokens.remove(request.person, id);
  }
}
