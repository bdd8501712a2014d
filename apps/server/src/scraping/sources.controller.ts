import { Controller, Get, Param } from '@nestjs/common';
import type { SourcesAnswer } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { z } from 'zod';
import { Seen } from '../access/reached.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { Clock } from '../platform/settings.ts';
import { CompactionService } from '../store/compaction.service.ts';
import { SamplesService } from '../store/samples.service.ts';
import { SpaceService } from '../store/space.service.ts';
import { EndpointsService } from './endpoints.service.ts';

const Id = z.coerce.number<string>().int().positive();

@Controller('api')
export class SourcesController {
  constructor(
    private readonly connections: ConnectionsService,
    private readonly endpoints: EndpointsService,
    private readonly samples: SamplesService,
    private readonly compaction: CompactionService,
    private readonly space: SpaceService,
    private readonly clock: Clock,
  ) {}

  @Get('sources')
  sources(@Seen() reach: Reach): SourcesAnswer {
    return {
      at: this.clock.now(),
      connections: this.connections.list(reach),
      endpoints: this.endpoints.list(reach),
      store: { ...this.samples.status, packing: this.compaction.problem, space: this.space.space },
    };
  }
  @Get('endpoints/:id/page')
  page(@Param('id', { schema: Id }) id: number, @Seen() reach: Reach) {
    return this.endpoints.rawPage(reach, id);
  }
}
