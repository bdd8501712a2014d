import { Body, Controller, Get, HttpCode, Put, Req } from '@nestjs/common';
import { type RetentionAnswer, RetentionDocument } from '@zetopsis/contract';
import { Audited } from '../../ground/guard/action.ts';
import { Administrators, type KnownRequest } from '../../ground/guard/route.ts';
import { RetentionService } from './retention.service.ts';

@Administrators()
@Controller('api/admin/retention')
export class RetentionController {
  constructor(private readonly retention: RetentionService) {}

  @Get()
  held(): Promise<RetentionAnswer> {
    return this.retention.answer();
  }
  @Audited('change how long data are kept')
  @Put()
  @HttpCode(204)
  change(@Body({ schema: RetentionDocument }) body: RetentionDocument, @Req() request: KnownRequest): Promise<void> {
    return this.retention.change(request.who, body);
  }
}
