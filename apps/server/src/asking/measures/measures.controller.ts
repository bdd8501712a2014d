import { Readable } from 'node:stream';
import { Body, Controller, Get, HttpCode, Post, Query, Req, StreamableFile } from '@nestjs/common';
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

  /** A question, though it is posted: nothing changes by it. Answers a `MeasureAnswer`, piece by piece. */
  @Post('evaluate')
  @HttpCode(200)
  async evaluate(
    @Body({ schema: MeasureInput }) input: z.infer<typeof MeasureInput>,
    @Seen() reach: Reach,
    @Req() { person }: KnownRequest,
  ): Promise<StreamableFile> {
    const pieces = await this.measures.evaluate({ reach, person }, input);
    return new StreamableFile(Readable.from(pieces, { objectMode: false }), {
      type: 'application/json; charset=utf-8',
    });
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
