import { Module } from '@nestjs/common';
import { ConnectionsModule } from '../../inflow/connections/connections.module.ts';
import { LinksModule } from '../../inflow/links/links.module.ts';
import { MeasuresModule } from '../measures/measures.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { UsageModule } from '../usage/usage.module.ts';
import { LinkTroubles } from './linkTroubles.service.ts';
import { MapController } from './map.controller.ts';
import { MapService } from './map.service.ts';

@Module({
  imports: [ConnectionsModule, LinksModule, MeasuresModule, OwnersModule, UsageModule],
  controllers: [MapController],
  providers: [MapService, LinkTroubles],
})
export class MapModule {}
