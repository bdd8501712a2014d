import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Query, Req } from '@nestjs/common';
import { DocumentKey, StretchDocument, StretchEnd, type StretchesAnswer, StretchesQuery } from '@zetopsis/contract';
import { DAY } from '@zetopsis/core/units';
import { Audited, keyed, named } from '../../ground/guard/action.ts';
import type { KnownRequest } from '../../ground/guard/route.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { KeptForTeams } from '../owners/keptForTeams.service.ts';
import { StretchesService } from './stretches.service.ts';

/** Tokens may mark as well: a delivery pipeline says when it releases. */
@Controller('api/stretches')
export class StretchesController {
  constructor(
    private readonly stretches: StretchesService,
    private readonly forTeams: KeptForTeams,
    private readonly clock: Clock,
  ) {}

  @Get()
  list(
    @Query({ schema: StretchesQuery }) { from, to }: StretchesQuery,
    @Req() { reach, person }: KnownRequest,
  ): StretchesAnswer {
    const now = this.clock.now();
    return {
      stretches: this.stretches.list({ reach, person }, from ?? now - 400 * DAY, to ?? now + 400 * DAY),
      at: now,
      teams: this.forTeams.writableBy({ reach, person }).teams,
    };
  }
  @Audited('mark a stretch', named('title'))
  @Post()
  async add(
    @Body({ schema: StretchDocument }) document: StretchDocument,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<{ key: string }> {
    return { key: await this.stretches.add({ reach, person }, who, document) };
  }
  @Audited('change a stretch', keyed)
  @Put(':key')
  @HttpCode(204)
  save(
    @Param('key', { schema: DocumentKey }) key: string,
    @Body({ schema: StretchDocument }) document: StretchDocument,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.stretches.save({ reach, person }, who, key, document);
  }
  @Audited('end a stretch', keyed)
  @Post(':key/end')
  @HttpCode(204)
  end(
    @Param('key', { schema: DocumentKey }) key: string,
    @Body({ schema: StretchEnd }) { at }: StretchEnd,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.stretches.end({ reach, person }, who, key, at);
  }
  @Audited('remove a stretch', keyed)
  @Delete(':key')
  @HttpCode(204)
  remove(
    @Param('key', { schema: DocumentKey }) key: string,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.stretches.remove({ reach, person }, who, key);
  }
}
