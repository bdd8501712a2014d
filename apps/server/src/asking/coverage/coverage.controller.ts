import { Body, Controller, Get, HttpCode, Post, Query } from '@nestjs/common';
import {
  type CensusAnswer,
  CensusQuery,
  type CoverageAnswer,
  CoverageQuery,
  type DropPreview,
  DropPreviewInput,
} from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import type { z } from 'zod';
import { Audited } from '../../ground/guard/action.ts';
import { Seen } from '../../ground/guard/reached.ts';
import { Administrators } from '../../ground/guard/route.ts';
import { CensusService } from './census.service.ts';
import { CoverageService } from './coverage.service.ts';

@Controller('api')
export class CoverageController {
  constructor(
    private readonly service: CoverageService,
    private readonly counts: CensusService,
  ) {}

  @Get('coverage')
  coverage(
    @Query({ schema: CoverageQuery }) { cluster, only }: z.infer<typeof CoverageQuery>,
    @Seen() reach: Reach,
  ): Promise<CoverageAnswer> {
    return this.service.coverage(reach, cluster, only);
  }
  @Get('census')
  census(
    @Query({ schema: CensusQuery }) { find }: z.infer<typeof CensusQuery>,
    @Seen() reach: Reach,
  ): Promise<CensusAnswer> {
    return this.counts.census(reach, find);
  }
  @Administrators()
  @Audited('preview what to leave out')
  @Post('census/drop')
  @HttpCode(200)
  drop(
    @Body({ schema: DropPreviewInput }) { endpoint, rule }: z.infer<typeof DropPreviewInput>,
    @Seen() reach: Reach,
  ): Promise<DropPreview> {
    return this.counts.dropPreview(reach, endpoint, rule);
  }
}
