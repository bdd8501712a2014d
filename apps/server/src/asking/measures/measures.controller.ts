import { Body, Controller, Get, Header, HttpCode, Post, Query } from '@nestjs/common';
import { MeasureInput, type MetricNamesAnswer, MetricNamesQuery } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import type { z } from 'zod';
import { Seen } from '../../ground/guard/reached.ts';
import { MeasuresService } from './measures.service.ts';
import { MetricNames } from './metricNames.service.ts';

@Controller('api/measures')
export class MeasuresController {
  constructor(
    private readonly measures: MeasuresService,
    private readonly names: MetricNames,
  ) {}

  /** A question, though it is posted: nothing changes by it. Answers a `MeasureAnswer`, written already. */
  @Post('evaluate')
  @HttpCode(200)
  @Header('content-type', 'application/json; charset=utf-8')
  evaluate(@Body({ schema: MeasureInput }) input: z.infer<typeof MeasureInput>, @Seen() reach: Reach): Promise<string> {
    return this.measures.evaluate(reach, input);
  }
  @Get('metrics')
  metrics(
    @Query({ schema: MetricNamesQuery }) { find }: z.infer<typeof MetricNamesQuery>,
    @Seen() reach: Reach,
  ): Promise<MetricNamesAnswer> {
    return this.names.list(reach, find);
  }
}
