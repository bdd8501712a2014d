import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { LiveModule } from '../../ground/live/live.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { AskingService } from './asking.service.ts';
import { EndpointStore } from './endpoint.store.ts';
import { EndpointAnswersService } from './endpointAnswers.service.ts';
import { EndpointSheetService } from './endpointSheet.service.ts';
import { EndpointsService } from './endpoints.service.ts';
import { GivenService } from './given.service.ts';
import { HistoryService } from './history.service.ts';
import { IntervalsService } from './intervals.service.ts';
import { KnownEndpoints } from './knownEndpoints.ts';
import { PodPortsService } from './podPorts.service.ts';
import { ReadingsService } from './readings.service.ts';
import { RemovalService } from './removal.service.ts';
import { ScoutPreviewService } from './scoutPreview.service.ts';
import { ScoutsService } from './scouts.service.ts';
import { SourcesController } from './sources.controller.ts';

@Module({
  imports: [ConfigurationModule, ConnectionsModule, InventoryModule, StoreModule, LiveModule],
  controllers: [SourcesController],
  providers: [
    AskingService,
    EndpointAnswersService,
    EndpointsService,
    EndpointSheetService,
    EndpointStore,
    GivenService,
    HistoryService,
    IntervalsService,
    KnownEndpoints,
    PodPortsService,
    ReadingsService,
    RemovalService,
    ScoutPreviewService,
    ScoutsService,
  ],
  exports: [AskingService, EndpointAnswersService, EndpointsService, HistoryService, KnownEndpoints, ReadingsService],
})
export class ScrapingModule {}
