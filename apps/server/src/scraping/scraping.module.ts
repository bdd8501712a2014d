import { Module } from '@nestjs/common';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { InventoryModule } from '../inventory/inventory.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { EndpointStore } from './endpoint.store.ts';
import { EndpointsService } from './endpoints.service.ts';
import { SourcesController } from './sources.controller.ts';

@Module({
  imports: [ConnectionsModule, InventoryModule, StoreModule, LiveModule],
  controllers: [SourcesController],
  providers: [EndpointsService, EndpointStore],
  exports: [EndpointsService],
})
export class ScrapingModule {}
