import { Body, Controller, Get, HttpCode, Param, Post, Put, Req } from '@nestjs/common';
import { ClusterName, type VitalsAnswer, VitalsDocument } from '@zetopsis/contract';
import { Audited, keyed } from '../../ground/guard/action.ts';
import { Administrators, type KnownRequest } from '../../ground/guard/route.ts';
import { VitalsService } from './vitals.service.ts';

@Administrators()
@Controller('api/vitals')
export class VitalsController {
  constructor(private readonly vitals: VitalsService) {}

  @Get(':key')
  look(@Param('key', { schema: ClusterName }) cluster: string): VitalsAnswer {
    return this.vitals.answer(cluster);
  }
  /** What a mapping would find, before it counts. */
  @Audited('try a mapping of vitals', keyed)
  @Post(':key/try')
  @HttpCode(200)
  try(
    @Param('key', { schema: ClusterName }) cluster: string,
    @Body({ schema: VitalsDocument }) document: VitalsDocument,
  ): VitalsAnswer {
    return this.vitals.answer(cluster, document);
  }
  @Audited('map vitals', keyed)
  @Put(':key')
  save(
    @Param('key', { schema: ClusterName }) cluster: string,
    @Body({ schema: VitalsDocument }) document: VitalsDocument,
    @Req() { who }: KnownRequest,
  ): Promise<VitalsAnswer> {
    return this.vitals.save(who, cluster, document);
  }
}
