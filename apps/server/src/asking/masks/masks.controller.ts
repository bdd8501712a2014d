import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Req } from '@nestjs/common';
import { DocumentKey, MaskDocument, type MaskPreview, type MasksAnswer } from '@zetopsis/contract';
import { Audited, keyed, named } from '../../ground/guard/action.ts';
import type { KnownRequest } from '../../ground/guard/route.ts';
import { MasksService } from './masks.service.ts';

/** Own patterns of what is masked in log lines. */
@Controller('api/masks')
export class MasksController {
  constructor(private readonly masks: MasksService) {}

  @Get()
  list(@Req() { reach, person }: KnownRequest): MasksAnswer {
    return this.masks.list({ reach, person });
  }
  /** What it would have taken out of the lines of the last hour: what is masked once cannot be taken back. */
  @Audited('try a mask', named('title'))
  @Post('preview')
  @HttpCode(200)
  preview(
    @Body({ schema: MaskDocument }) document: MaskDocument,
    @Req() { reach, person }: KnownRequest,
  ): Promise<MaskPreview> {
    return this.masks.preview({ reach, person }, document);
  }
  @Audited('make a mask', named('title'))
  @Post()
  async add(
    @Body({ schema: MaskDocument }) document: MaskDocument,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<{ key: string }> {
    return { key: await this.masks.add({ reach, person }, who, document) };
  }
  @Audited('change a mask', keyed)
  @Put(':key')
  @HttpCode(204)
  save(
    @Param('key', { schema: DocumentKey }) key: string,
    @Body({ schema: MaskDocument }) document: MaskDocument,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.masks.save({ reach, person }, who, key, document);
  }
  @Audited('remove a mask', keyed)
  @Delete(':key')
  @HttpCode(204)
  remove(
    @Param('key', { schema: DocumentKey }) key: string,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.masks.remove({ reach, person }, who, key);
  }
}
