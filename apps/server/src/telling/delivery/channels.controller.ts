import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Req } from '@nestjs/common';
import { ChannelInput, type ChannelsAnswer, DocumentKey } from '@zetopsis/contract';
import type { Request } from 'express';
import { Audited, keyed } from '../../ground/guard/action.ts';
import { InPerson, type KnownRequest } from '../../ground/guard/route.ts';
import { Channels } from './channels.service.ts';

const Key = { schema: DocumentKey };
/** Looked at before it is checked: whatever stands there. */
const nameIn = ({ body }: Request): string => {
  const read = ChannelInput.safeParse(body);
  return read.success ? read.data.document.name : '';
};

@Controller('api/channels')
export class ChannelsController {
  constructor(private readonly channels: Channels) {}

  @Get()
  list(@Req() { reach, person }: KnownRequest): Promise<ChannelsAnswer> {
    return this.channels.list({ reach, person });
  }
  @InPerson()
  @Audited('add a channel', nameIn)
  @Post()
  async add(
    @Body({ schema: ChannelInput }) input: ChannelInput,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<{ key: string }> {
    return { key: await this.channels.add({ reach, person }, who, input) };
  }
  @InPerson()
  @Audited('change a channel', keyed)
  @Put(':key')
  @HttpCode(204)
  save(
    @Param('key', Key) key: string,
    @Body({ schema: ChannelInput }) input: ChannelInput,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.channels.save({ reach, person }, who, key, input);
  }
  @InPerson()
  @Audited('remove a channel', keyed)
  @Delete(':key')
  @HttpCode(204)
  remove(@Param('key', Key) key: string, @Req() { reach, person, who }: KnownRequest): Promise<void> {
    return this.channels.remove({ reach, person }, who, key);
  }
  @InPerson()
  @Audited('test a channel', keyed)
  @Post(':key/test')
  @HttpCode(204)
  test(@Param('key', Key) key: string, @Req() { reach, person }: KnownRequest): Promise<void> {
    return this.channels.test({ reach, person }, key);
  }
}
