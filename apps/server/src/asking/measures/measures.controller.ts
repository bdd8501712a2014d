import { Body, Controller, Get, Header, HttpCode, Post, Query, Req } from '@nestjs/common';
import {
  MeasureInput,
  type MetricLabelsAnswer,
  MetricLabelsQuery,
  type MetricNamesAnswer,
  MetricNamesQuery,
} from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import type { z } from 'zod';
import { Seen } from '../../ground/guard/reached.ts';
import type { KnownRequest } from '../../ground/guard/route.ts';
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
  evaluate(
    @Body({ schema: MeasureInput }) input: z.infer<typeof MeasureInput>,
    @Seen() reach: Reach,
    @Req() { person }: KnownRequest,
  ): Promise<string> {
    return this.measures.evaluate({ reach, person }, input);
  }
  @Get('metrics')
  metrics(
    @Query({ schema: MetricNamesQuery }) { find }: z.infer<typeof MetricNamesQuery>,
    @Seen() reach: Reach,
  ): Promise<MetricNamesAnswer> {
    return this.names.list(reach, find);
  }
  @Get('labels')
  labels(
    @Query({ schema: MetricLabelsQuery }) query: z.infer<typeof MetricLabelsQuery>,
    @Seen() reach: Reach,
  ): Promise<MetricLabelsAnswer> {
    return this.names.labels(reach, query);
  }
}
