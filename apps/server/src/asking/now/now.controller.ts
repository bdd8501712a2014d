import { Controller, Get, Query } from '@nestjs/common';
import { AgainstQuery, type NowAnswer, ScopeQuery, WindowQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { Seen } from '../../ground/guard/reached.ts';
import { NowService } from './now.service.ts';

@Controller('api/now')
export class NowController {
  constructor(private readonly now: NowService) {}

  @Get()
  answer(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Query({ schema: AgainstQuery }) { shift }: AgainstQuery,
    @Seen() reach: Reach,
  ): Promise<NowAnswer> {
    return this.now.answer({ reach, scope, query: window, shift });
  }
}
