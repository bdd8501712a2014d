import { Module } from '@nestjs/common';
import { AccessModule } from '../../asking/access/access.module.ts';
import { MeasuresModule } from '../../asking/measures/measures.module.ts';
import { NowModule } from '../../asking/now/now.module.ts';
import { OwnersModule } from '../../asking/owners/owners.module.ts';
import { StretchesModule } from '../../asking/stretches/stretches.module.ts';
import { UsageModule } from '../../asking/usage/usage.module.ts';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { LiveModule } from '../../ground/live/live.module.ts';
import { ConnectionsModule } from '../../inflow/connections/connections.module.ts';
import { ScrapingModule } from '../../inflow/scraping/scraping.module.ts';
import { VitalsModule } from '../../inflow/vitals/vitals.module.ts';
import { AlertsModule } from '../../keeping/alerts/alerts.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { OutboxModule } from '../../keeping/outbox/outbox.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { DeliveryModule } from '../delivery/delivery.module.ts';
import { Alerting } from './alerting.service.ts';
import { ClustersJudged } from './clustersJudged.ts';
import { Heartbeats } from './heartbeats.service.ts';
import { HushesController } from './hushes.controller.ts';
import { Hushes } from './hushes.service.ts';
import { KeptRules } from './keptRules.service.ts';
import { MeasureLooks } from './measureLooks.service.ts';
import { NoiseReport } from './noise.service.ts';
import { OccurrenceLooks } from './occurrenceLooks.service.ts';
import { PastLooks } from './pastLooks.service.ts';
import { Rehearsals } from './rehearsal.service.ts';
import { RuleCosts } from './ruleCosts.ts';
import { RuleLooks } from './ruleLooks.service.ts';
import { RulesController } from './rules.controller.ts';
import { RulesService } from './rules.service.ts';
import { WouldRaise } from './wouldRaise.service.ts';

@Module({
  imports: [
    VitalsModule,
    ConfigurationModule,
    ConnectionsModule,
    InventoryModule,
    StoreModule,
    ScrapingModule,
    AccessModule,
    MeasuresModule,
    OwnersModule,
    UsageModule,
    NowModule,
    StretchesModule,
    DeliveryModule,
    OutboxModule,
    AlertsModule,
    LiveModule,
  ],
  controllers: [RulesController, HushesController],
  providers: [
    NoiseReport,
    OccurrenceLooks,
    RuleCosts,
    WouldRaise,
    Heartbeats,
    ClustersJudged,
    Hushes,
    RulesService,
    KeptRules,
    Rehearsals,
    RuleLooks,
    MeasureLooks,
    PastLooks,
    Alerting,
  ],
})
export class RulesModule {}
