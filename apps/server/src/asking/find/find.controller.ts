import { Controller, Get, Query } from '@nestjs/common';
import { type FindAnswer, FindQuery } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import type { z } from 'zod';
import { Seen } from '../../ground/guard/reached.ts';
import { FindService } from './find.service.ts';

@Controller('api/find')
export class FindController {
  constructor(private readonly finding: FindService) {}

  @Get()
  find(@Query({ schema: FindQuery }) { q }: z.infer<typeof FindQuery>, @Seen() reach: Reach): Promise<FindAnswer> {
    return this.finding.find(reach, q);
  }
}
