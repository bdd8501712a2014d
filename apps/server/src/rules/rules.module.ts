import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { ConfigurationModule } from '../configuration/configuration.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { DeliveryModule } from '../delivery/delivery.module.ts';
import { InventoryModule } from '../inventory/inventory.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { VitalsModule } from '../vitals/vitals.module.ts';
import { AlertStore } from './alert.store.ts';
import { AlertsService } from './alerts.service.ts';
import { RuleEntity } from './rule.entity.ts';
import { RulesController } from './rules.controller.ts';
import { RulesService } from './rules.service.ts';

@Module({
  imports: [
    VitalsModule,
    TypeOrmModule.forFeature([RuleEntity]),
    ConfigurationModule,
    ConnectionsModule,
    InventoryModule,
    StoreModule,
    ScrapingModule,
    OwnersModule,
    DeliveryModule,
    LiveModule,
  ],
  controllers: [RulesController],
  providers: [RulesService, AlertsService, AlertStore],
  exports: [AlertsService, RulesService],
})
export class RulesModule {}
