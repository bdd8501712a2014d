import { Body, Controller, Get, Param, Put, Req } from '@nestjs/common';
import { ClusterName, type CriticalityAnswer, CriticalityDocument } from '@zetopsis/contract';
import { Audited, keyed } from '../../ground/guard/action.ts';
import { Administrators, type KnownRequest } from '../../ground/guard/route.ts';
import { CriticalityService } from './criticality.service.ts';

@Administrators()
@Controller('api/criticality')
export class CriticalityController {
  constructor(private readonly criticality: CriticalityService) {}

  @Get(':key')
  look(@Param('key', { schema: ClusterName }) cluster: string): CriticalityAnswer {
    return this.criticality.answer(cluster);
  }
  @Audited('say how much hangs on what', keyed)
  @Put(':key')
  save(
    @Param('key', { schema: ClusterName }) cluster: string,
    @Body({ schema: CriticalityDocument }) document: CriticalityDocument,
    @Req() { who }: KnownRequest,
  ): Promise<CriticalityAnswer> {
    return this.criticality.save(who, cluster, document);
  }
}
