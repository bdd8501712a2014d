import { Controller, Get, Query } from '@nestjs/common';
import { type LinesAnswer, ScopeQuery, WindowQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { Seen } from '../../ground/guard/reached.ts';
import { RecordsService } from './records.service.ts';

/** What programs told: log lines of an object. */
@Controller('api/records')
export class RecordsController {
  constructor(private readonly records: RecordsService) {}

  @Get('lines')
  lines(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Seen() reach: Reach,
  ): Promise<LinesAnswer> {
    return this.records.lines(reach, scope.in, window);
  }
}
