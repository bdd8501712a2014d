import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../configuration/configuration.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { InventoryModule } from '../inventory/inventory.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { RulesModule } from '../rules/rules.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { VitalsModule } from '../vitals/vitals.module.ts';
import { FlowsService } from './flows.service.ts';
import { HostsService } from './hosts.service.ts';
import { OtherUsageService } from './otherUsage.service.ts';
import { OwnSeries } from './ownSeries.service.ts';
import { ProcessesService } from './processes.service.ts';
import { RequestsService } from './requests.service.ts';
import { RunningOutService } from './runningOut.service.ts';
import { TapeController } from './tape.controller.ts';
import { UsageController } from './usage.controller.ts';
import { UsageService } from './usage.service.ts';

@Module({
  imports: [
    VitalsModule,
    ConfigurationModule,
    ConnectionsModule,
    InventoryModule,
    StoreModule,
    ScrapingModule,
    OwnersModule,
    RulesModule,
  ],
  controllers: [UsageController, TapeController],
  providers: [
    UsageService,
    FlowsService,
    HostsService,
    RunningOutService,
    OtherUsageService,
    OwnSeries,
    RequestsService,
    ProcessesService,
  ],
  exports: [UsageService, RunningOutService, HostsService],
})
export class UsageModule {}
