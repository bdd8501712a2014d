import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { ConnectionsModule } from '../../inflow/connections/connections.module.ts';
import { ScrapingModule } from '../../inflow/scraping/scraping.module.ts';
import { VitalsModule } from '../../inflow/vitals/vitals.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { UsageModule } from '../usage/usage.module.ts';
import { Evaluations } from './evaluations.service.ts';
import { InventoryReads } from './inventoryReads.service.ts';
import { MeasureReading } from './measureReading.service.ts';
import { MeasuresController } from './measures.controller.ts';
import { MeasuresService } from './measures.service.ts';
import { MetricNames } from './metricNames.service.ts';
import { ObjectTables } from './objectTables.service.ts';
import { SavedMeasuresController } from './savedMeasures.controller.ts';
import { SavedMeasures } from './savedMeasures.service.ts';
import { SeenSeries } from './seenSeries.ts';

@Module({
  imports: [
    ConfigurationModule,
    ConnectionsModule,
    InventoryModule,
    OwnersModule,
    ScrapingModule,
    StoreModule,
    UsageModule,
    VitalsModule,
  ],
  controllers: [SavedMeasuresController, MeasuresController],
  providers: [
    Evaluations,
    InventoryReads,
    MeasureReading,
    ObjectTables,
    MeasuresService,
    MetricNames,
    SavedMeasures,
    SeenSeries,
  ],
  exports: [Evaluations, MeasuresService],
})
export class MeasuresModule {}
