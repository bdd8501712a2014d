import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../configuration/configuration.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { DeliveryModule } from '../delivery/delivery.module.ts';
import { InventoryModule } from '../inventory/inventory.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { OwnersService } from './owners.service.ts';
import { TeamsController } from './teams.controller.ts';

@Module({
  imports: [
    ConfigurationModule,
    ConnectionsModule,
    InventoryModule,
    DeliveryModule,
    LiveModule,
    ScrapingModule,
    StoreModule,
  ],
  controllers: [TeamsController],
  providers: [OwnersService],
  exports: [OwnersService],
})
export class OwnersModule {}
