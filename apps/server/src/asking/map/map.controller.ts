import { Controller, Get, Query } from '@nestjs/common';
import { AgainstQuery, type MapAnswer, WindowQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { Seen } from '../../ground/guard/reached.ts';
import { MapService } from './map.service.ts';

/** Who talks to whom. */
@Controller('api/map')
export class MapController {
  constructor(private readonly map: MapService) {}

  /** At the end of the window; against the end of the one that is compared with, where one is. */
  @Get()
  answer(
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Query({ schema: AgainstQuery }) { shift }: AgainstQuery,
    @Seen() reach: Reach,
  ): Promise<MapAnswer> {
    return this.map.compared(reach, window, shift ?? null);
  }
}
