import { Module } from '@nestjs/common';
import { OwnersModule } from '../../asking/owners/owners.module.ts';
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
import { RuleSubjects } from './ruleSubjects.service.ts';
import { RulesController } from './rules.controller.ts';
import { RulesService } from './rules.service.ts';

@Module({
  imports: [
    VitalsModule,
    ConfigurationModule,
    ConnectionsModule,
    InventoryModule,
    StoreModule,
    ScrapingModule,
    OwnersModule,
    DeliveryModule,
    OutboxModule,
    AlertsModule,
    LiveModule,
  ],
  controllers: [RulesController],
  providers: [RulesService, RuleSubjects, Alerting],
})
export class RulesModule {}
