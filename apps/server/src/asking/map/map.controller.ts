import { Controller, Get, Query } from '@nestjs/common';
import { type MapAnswer, WindowQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { Seen } from '../../ground/guard/reached.ts';
import { MapService } from './map.service.ts';

/** Who talks to whom. */
@Controller('api/map')
export class MapController {
  constructor(private readonly map: MapService) {}

  /** At the end of the window. */
  @Get()
  answer(@Query({ schema: WindowQuery }) { to }: WindowQuery, @Seen() reach: Reach): Promise<MapAnswer> {
    return this.map.answer(reach, to ?? null);
  }
}
