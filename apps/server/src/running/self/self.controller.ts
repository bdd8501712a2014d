import { Controller, Get, Header } from '@nestjs/common';
import { Reach } from '@zetopsis/core/access';
import { Seen } from '../../ground/guard/reached.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { SelfService } from './self.service.ts';

@Controller('api/self')
export class SelfController {
  constructor(private readonly self: SelfService) {}

  /** For whoever may read everything; a token with that bound lets another Zetopsis read it. */
  @Get('metrics')
  @Header('content-type', 'application/openmetrics-text; version=1.0.0; charset=utf-8')
  metrics(@Seen() reach: Reach): Promise<string> {
    if (!reach.mayEverywhere('read'))
      throw new Refusal('notAllowed', 'Zetopsis’ own metrics are for those who may read everything.');
    return this.self.page();
  }
}
