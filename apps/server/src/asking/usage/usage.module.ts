import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { ConnectionsModule } from '../../inflow/connections/connections.module.ts';
import { ScrapingModule } from '../../inflow/scraping/scraping.module.ts';
import { VitalsModule } from '../../inflow/vitals/vitals.module.ts';
import { AlertsModule } from '../../keeping/alerts/alerts.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { StretchesModule } from '../stretches/stretches.module.ts';
import { AnsweredRequests } from './answeredRequests.service.ts';
import { AnsweringService } from './answering.service.ts';
import { ColumnsService } from './columns.service.ts';
import { FlowsService } from './flows.service.ts';
import { FoundLinks } from './foundLinks.ts';
import { Histories } from './histories.ts';
import { HostsService } from './hosts.service.ts';
import { HostVitalsController } from './hostVitals.controller.ts';
import { HostVitals } from './hostVitals.service.ts';
import { OperationsService } from './operations.service.ts';
import { OtherUsageService } from './otherUsage.service.ts';
import { OwnSeries } from './ownSeries.service.ts';
import { ProcessesService } from './processes.service.ts';
import { RequestSeries } from './requestSeries.service.ts';
import { RunningOutService } from './runningOut.service.ts';
import { RunningOutLines } from './runningOutLines.ts';
import { SheetsService } from './sheets.service.ts';
import { TapeService } from './tape.service.ts';
import { UsageController } from './usage.controller.ts';
import { UsageService } from './usage.service.ts';
import { UsageReading } from './usageReading.service.ts';

@Module({
  imports: [
    VitalsModule,
    ConfigurationModule,
    ConnectionsModule,
    InventoryModule,
    StoreModule,
    ScrapingModule,
    OwnersModule,
    StretchesModule,
    AlertsModule,
  ],
  controllers: [UsageController, HostVitalsController],
  providers: [
    UsageService,
    UsageReading,
    FlowsService,
    FoundLinks,
    HostsService,
    HostVitals,
    Histories,
    RunningOutLines,
    RunningOutService,
    OperationsService,
    OtherUsageService,
    OwnSeries,
    AnsweredRequests,
    AnsweringService,
    RequestSeries,
    ProcessesService,
    ColumnsService,
    SheetsService,
    TapeService,
  ],
  exports: [UsageService, FoundLinks, RunningOutService, HostsService],
})
export class UsageModule {}
