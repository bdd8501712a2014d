import { Controller, Get, Query } from '@nestjs/common';
import { AuditQuery } from '@zetopsis/contract';
import { Administrators } from '../guard/route.ts';
import { AuditService } from './audit.service.ts';

@Administrators()
@Controller('api/admin/audit')
export class AuditController {
  constructor(private readonly audit: AuditService) {}

  @Get()
  search(@Query({ schema: AuditQuery }) query: AuditQuery) {
    return this.audit.search(query);
  }
}
