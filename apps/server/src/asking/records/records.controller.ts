import { Controller, Get, Param, Query } from '@nestjs/common';
import { type LinesAnswer, ScopeQuery, type TraceAnswer, type TracesAnswer, WindowQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { z } from 'zod';
import { Seen } from '../../ground/guard/reached.ts';
import { RecordsService } from './records.service.ts';

const TraceId = z.string().regex(/^[0-9a-f]{32}$/, 'a trace id is 32 hex digits');

/** What programs told: log lines of an object. */
@Controller('api/records')
export class RecordsController {
  constructor(private readonly records: RecordsService) {}

  @Get('traces')
  traces(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Seen() reach: Reach,
  ): Promise<TracesAnswer> {
    return this.records.traces(reach, scope.in, window);
  }
  @Get('traces/:id')
  trace(
    @Param('id', { schema: TraceId }) id: string,
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Seen() reach: Reach,
  ): Promise<TraceAnswer> {
    return this.records.trace(reach, id, window);
  }
  @Get('lines')
  lines(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Seen() reach: Reach,
  ): Promise<LinesAnswer> {
    return this.records.lines(reach, scope.in, window);
  }
}
