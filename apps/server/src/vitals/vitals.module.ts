import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../configuration/configuration.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { InventoryModule } from '../inventory/inventory.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { VitalsController } from './vitals.controller.ts';
import { VitalsService } from './vitals.service.ts';

@Module({
  imports: [ConfigurationModule, ConnectionsModule, InventoryModule, ScrapingModule, StoreModule],
  controllers: [VitalsController],
  providers: [VitalsService],
  exports: [VitalsService],
})
export class VitalsModule {}
