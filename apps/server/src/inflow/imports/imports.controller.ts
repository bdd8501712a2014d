import { Controller, Delete, Get, HttpCode, Param, Post, Query, Req } from '@nestjs/common';
import { type ImportAnswer, ImportQuery, type ImportsAnswer, RowNumber } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { Audited, numbered } from '../../ground/guard/action.ts';
import { Seen } from '../../ground/guard/reached.ts';
import type { KnownRequest } from '../../ground/guard/route.ts';
import { ImportsService } from './imports.service.ts';

const asked = ({ query }: { query: object }) =>
  ['what', 'cluster', 'node']
    .map((field) => (query as Record<string, unknown>)[field])
    .filter((value) => typeof value === 'string')
    .join(' ');

/** The body of an import is the file itself, as it comes: it is written to disk, never held whole. */
@Controller('api/imports')
export class ImportsController {
  constructor(private readonly imports: ImportsService) {}

  @Get()
  async list(@Seen() reach: Reach): Promise<ImportsAnswer> {
    return { imports: await this.imports.list(reach) };
  }
  @Audited('import history', asked)
  @Post()
  @HttpCode(202)
  take(
    @Query({ schema: ImportQuery }) query: ImportQuery,
    @Seen() reach: Reach,
    @Req() request: KnownRequest,
  ): Promise<ImportAnswer> {
    // a body of that type has been read already, as one of our own requests
    return this.imports.take({
      reach,
      by: request.who,
      importQuery: query,
      body: request.is('application/json') ? null : request,
    });
  }
  @Audited('cancel an import', numbered)
  @Delete(':id')
  @HttpCode(204)
  cancel(@Param('id', { schema: RowNumber }) id: number, @Seen() reach: Reach): Promise<void> {
    return this.imports.cancel(reach, id);
  }
}
