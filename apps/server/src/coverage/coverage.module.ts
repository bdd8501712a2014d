import { Module } from '@nestjs/common';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { InventoryModule } from '../inventory/inventory.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { VitalsModule } from '../vitals/vitals.module.ts';
import { CoverageController } from './coverage.controller.ts';
import { CoverageService } from './coverage.service.ts';

@Module({
  imports: [VitalsModule, ConnectionsModule, InventoryModule, OwnersModule, ScrapingModule, StoreModule],
  controllers: [CoverageController],
  providers: [CoverageService],
})
export class CoverageModule {}
