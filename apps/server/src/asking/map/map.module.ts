import { Module } from '@nestjs/common';
import { ConnectionsModule } from '../../inflow/connections/connections.module.ts';
import { LinksModule } from '../../inflow/links/links.module.ts';
import { KeptRecordsModule } from '../../keeping/records/keptRecords.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { MeasuresModule } from '../measures/measures.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { UsageModule } from '../usage/usage.module.ts';
import { LinksReading } from './linksReading.service.ts';
import { LinkTroubles } from './linkTroubles.service.ts';
import { MapController } from './map.controller.ts';
import { MapService } from './map.service.ts';
import { TracedLinksService } from './tracedLinks.service.ts';

@Module({
  imports: [ConnectionsModule, KeptRecordsModule, LinksModule, MeasuresModule, OwnersModule, StoreModule, UsageModule],
  controllers: [MapController],
  providers: [LinksReading, LinkTroubles, MapService, TracedLinksService],
})
export class MapModule {}
