import { Module } from '@nestjs/common';
import { ConnectionsModule } from '../../inflow/connections/connections.module.ts';
import { ScrapingModule } from '../../inflow/scraping/scraping.module.ts';
import { VitalsModule } from '../../inflow/vitals/vitals.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { CensusService } from './census.service.ts';
import { CoverageController } from './coverage.controller.ts';
import { CoverageService } from './coverage.service.ts';

@Module({
  imports: [VitalsModule, ConnectionsModule, InventoryModule, OwnersModule, ScrapingModule, StoreModule],
  controllers: [CoverageController],
  providers: [CensusService, CoverageService],
})
export class CoverageModule {}
