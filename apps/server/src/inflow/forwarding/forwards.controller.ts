import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Req } from '@nestjs/common';
import { DocumentKey, ForwardInput, type ForwardsAnswer, type ForwardTest } from '@zetopsis/contract';
import { Audited, keyed } from '../../ground/guard/action.ts';
import { Administrators, type KnownRequest } from '../../ground/guard/route.ts';
import { ForwardingService } from './forwarding.service.ts';

/** Receivers to which goes on what is pushed. */
@Administrators()
@Controller('api/forwards')
export class ForwardsController {
  constructor(private readonly forwarding: ForwardingService) {}

  @Get()
  list(): Promise<ForwardsAnswer> {
    return this.forwarding.list();
  }
  @Audited('let what is pushed go on')
  @Post()
  async add(
    @Body({ schema: ForwardInput }) input: ForwardInput,
    @Req() { who }: KnownRequest,
  ): Promise<{ key: string }> {
    return { key: await this.forwarding.add(who, input) };
  }
  @Audited('change what goes on', keyed)
  @Put(':key')
  @HttpCode(204)
  save(
    @Param('key', { schema: DocumentKey }) key: string,
    @Body({ schema: ForwardInput }) input: ForwardInput,
    @Req() { who }: KnownRequest,
  ): Promise<void> {
    return this.forwarding.save(who, key, input);
  }
  @Audited('test a receiver', keyed)
  @Post(':key/test')
  @HttpCode(200)
  test(@Param('key', { schema: DocumentKey }) key: string): Promise<ForwardTest> {
    return this.forwarding.test(key);
  }
  @Audited('let nothing go on any more', keyed)
  @Delete(':key')
  @HttpCode(204)
  remove(@Param('key', { schema: DocumentKey }) key: string, @Req() { who }: KnownRequest): Promise<void> {
    return this.forwarding.remove(who, key);
  }
}
