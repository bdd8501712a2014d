import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { VitalsController } from './vitals.controller.ts';
import { VitalsService } from './vitals.service.ts';

@Module({
  imports: [ConfigurationModule, ConnectionsModule, InventoryModule, ScrapingModule, StoreModule],
  controllers: [VitalsController],
  providers: [VitalsService],
  exports: [VitalsService],
})
export class VitalsModule {}
