import { Controller, Get, Query } from '@nestjs/common';
import { AgainstQuery, type LinkAnswer, LinkQuery, type MapAnswer, WindowQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { Seen } from '../../ground/guard/reached.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { MapService } from './map.service.ts';
import { TracedLinksService } from './tracedLinks.service.ts';

/** Who talks to whom. */
@Controller('api/map')
export class MapController {
  constructor(
    private readonly map: MapService,
    private readonly traced: TracedLinksService,
    private readonly clock: Clock,
  ) {}

  /** At the end of the window; against the end of the one that is compared with, where one is. */
  @Get()
  answer(
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Query({ schema: AgainstQuery }) { shift }: AgainstQuery,
    @Seen() reach: Reach,
  ): Promise<MapAnswer> {
    return this.map.compared(reach, window, shift ?? null);
  }
  /** What goes over one link, as traces of the window tell. */
  @Get('link')
  link(
    @Query({ schema: LinkQuery }) link: LinkQuery,
    @Query({ schema: WindowQuery }) { from, to }: WindowQuery,
    @Seen() reach: Reach,
  ): Promise<LinkAnswer> {
    return this.traced.link(reach, link, { from, to: to ?? this.clock.now() });
  }
}
