import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../configuration/configuration.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { InventoryModule } from '../inventory/inventory.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { AskingService } from './asking.service.ts';
import { EndpointStore } from './endpoint.store.ts';
import { EndpointSheetService } from './endpointSheet.service.ts';
import { EndpointsService } from './endpoints.service.ts';
import { GivenService } from './given.service.ts';
import { HistoryService } from './history.service.ts';
import { PodPortsService } from './podPorts.service.ts';
import { ScoutsService } from './scouts.service.ts';
import { SourcesController } from './sources.controller.ts';

@Module({
  imports: [ConfigurationModule, ConnectionsModule, InventoryModule, StoreModule, LiveModule],
  controllers: [SourcesController],
  providers: [
    AskingService,
    EndpointsService,
    EndpointSheetService,
    EndpointStore,
    GivenService,
    HistoryService,
    PodPortsService,
    ScoutsService,
  ],
  exports: [AskingService, EndpointsService, HistoryService],
})
export class ScrapingModule {}
