import { Body, Controller, Get, HttpCode, Post, Put, Req } from '@nestjs/common';
import { MACHINES, type VitalsAnswer, VitalsDocument } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { Audited } from '../../ground/guard/action.ts';
import { Seen } from '../../ground/guard/reached.ts';
import { Administrators, type KnownRequest } from '../../ground/guard/route.ts';
import { HostVitals } from './hostVitals.service.ts';

const whose = () => MACHINES;

/** How machines outside clusters call what they use. */
@Administrators()
@Controller('api/host-vitals')
export class HostVitalsController {
  constructor(private readonly vitals: HostVitals) {}

  @Get()
  look(@Seen() reach: Reach): VitalsAnswer {
    return this.vitals.answer(reach);
  }
  @Audited('try a mapping of machines’ vitals', whose)
  @Post('try')
  @HttpCode(200)
  try(@Body({ schema: VitalsDocument }) document: VitalsDocument, @Seen() reach: Reach): VitalsAnswer {
    return this.vitals.answer(reach, document);
  }
  @Audited('map machines’ vitals', whose)
  @Put()
  save(
    @Body({ schema: VitalsDocument }) document: VitalsDocument,
    @Seen() reach: Reach,
    @Req() { who }: KnownRequest,
  ): Promise<VitalsAnswer> {
    return this.vitals.save(who, reach, document);
  }
}
