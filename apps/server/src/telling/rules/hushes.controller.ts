import { Body, Controller, Delete, Get, HttpCode, Param, Post, Req } from '@nestjs/common';
import { DocumentKey, HushDocument, type HushesAnswer } from '@zetopsis/contract';
import { Audited, keyed, named } from '../../ground/guard/action.ts';
import { InPerson, type KnownRequest } from '../../ground/guard/route.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { Hushes } from './hushes.service.ts';

@Controller('api/hushes')
export class HushesController {
  constructor(
    private readonly hushes: Hushes,
    private readonly clock: Clock,
  ) {}

  @Get()
  async list(@Req() { reach, person }: KnownRequest): Promise<HushesAnswer> {
    return { hushes: await this.hushes.list({ reach, person }), at: this.clock.now() };
  }
  @InPerson()
  @Audited('plan a hush', named('reason'))
  @Post()
  async add(
    @Body({ schema: HushDocument }) document: HushDocument,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<{ key: string }> {
    return { key: await this.hushes.add({ reach, person }, who, document) };
  }
  @InPerson()
  @Audited('take a hush back', keyed)
  @Delete(':key')
  @HttpCode(204)
  remove(
    @Param('key', { schema: DocumentKey }) key: string,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.hushes.remove({ reach, person }, who, key);
  }
}
