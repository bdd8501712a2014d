import { Module } from '@nestjs/common';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { DeliveryModule } from '../delivery/delivery.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { RulesModule } from '../rules/rules.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { UsageModule } from '../usage/usage.module.ts';
import { NowController } from './now.controller.ts';

@Module({
  imports: [UsageModule, ConnectionsModule, ScrapingModule, RulesModule, OwnersModule, DeliveryModule, StoreModule],
  controllers: [NowController],
})
export class NowModule {}
