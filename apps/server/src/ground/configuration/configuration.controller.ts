import { Body, Controller, Get, HttpCode, Param, Post, Query, Req } from '@nestjs/common';
import { FileInput, FileQuery, RevisionInput, RevisionsQuery, RowNumber } from '@zetopsis/contract';
import type { z } from 'zod';
import { Audited, named, numbered } from '../guard/action.ts';
import { Administrators, type KnownRequest } from '../guard/route.ts';
import { ConfigurationService } from './configuration.service.ts';

@Administrators()
@Controller('api/admin')
export class ConfigurationController {
  constructor(private readonly configuration: ConfigurationService) {}

  @Get('configuration')
  write(@Query({ schema: FileQuery }) query: z.infer<typeof FileQuery>) {
    return this.configuration.write(query.as);
  }
  @Audited('read a configuration file', (request) => (named('tryOnly')(request) === 'true' ? 'a try only' : ''))
  @Post('configuration')
  @HttpCode(200)
  read(@Body({ schema: FileInput }) body: FileInput, @Req() request: KnownRequest) {
    return this.configuration.read(request.who, body);
  }
  @Get('revisions')
  revisions(@Query({ schema: RevisionsQuery }) query: z.infer<typeof RevisionsQuery>) {
    return this.configuration.revisions(query.before);
  }
  @Get('revisions/:id')
  revision(@Param('id', { schema: RowNumber }) id: number) {
    return this.configuration.sheet(id);
  }
  @Audited(
    'turn the configuration back',
    (request) =>
      `${named('act')(request)} revision ${numbered(request)}${named('tryOnly')(request) === 'true' ? ', a try only' : ''}`,
  )
  @Post('revisions/:id')
  @HttpCode(200)
  turnBack(
    @Param('id', { schema: RowNumber }) id: number,
    @Body({ schema: RevisionInput }) body: RevisionInput,
    @Req() request: KnownRequest,
  ) {
    return this.configuration.turnBack(request.who, id, body);
  }
}
