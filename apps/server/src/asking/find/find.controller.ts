import { Controller, Get, Query, Req } from '@nestjs/common';
import { type FindAnswer, FindQuery } from '@zetopsis/contract';
import type { z } from 'zod';
import type { KnownRequest } from '../../ground/guard/route.ts';
import { FindService } from './find.service.ts';

@Controller('api/find')
export class FindController {
  constructor(private readonly finding: FindService) {}

  @Get()
  find(
    @Query({ schema: FindQuery }) { q }: z.infer<typeof FindQuery>,
    @Req() { reach, person }: KnownRequest,
  ): Promise<FindAnswer> {
    return this.finding.find({ reach, person }, q);
  }
}
